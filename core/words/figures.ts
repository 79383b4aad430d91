/** Lists names in a sentence: "a", "a and b", "a, b and c"; with a limit, "a, b and 2 more". */
export function listed(names: string[], most = Number.POSITIVE_INFINITY): string {
  if (names.length > most) {
    const shown = names.slice(0, most - 1);
    return `${shown.join(', ')} and ${names.length - shown.length} more`;
  }
  return names.length < 2
    ? (names[0] ?? '')
    : `${names.slice(0, -1).join(', ')} and ${names[names.length - 1]}`;
}

/** Says a gain: "−12.0", "+3.0", "0.0". */
export function gainText(gainDb: number): string {
  const rounded = Math.round(gainDb * 10) / 10;
  if (rounded === 0) return '0.0';
  return `${rounded < 0 ? '−' : '+'}${Math.abs(rounded).toFixed(1)}`;
}

/** Writes a level with one decimal and a minus sign: "−16.0", "3.5". */
export function levelText(level: number): string {
  return level.toFixed(1).replace('-', '−');
}

/** Says a level within a sentence: "at −12.0 dB", "at full level (0.0 dB)". */
export function levelWords(gainDb: number): string {
  return Math.abs(gainDb) < 0.05 ? 'at full level (0.0 dB)' : `at ${gainText(gainDb)} dB`;
}

/** Says a time as minutes and seconds, with hours from the first on: "1:05", "2:01:05". */
export function clockText(seconds: number): string {
  const whole = Math.round(seconds);
  const [hours, minutes, rest] = [Math.floor(whole / 3600), Math.floor(whole / 60) % 60, whole % 60];
  const tail = String(rest).padStart(2, '0');
  return hours > 0 ? `${hours}:${String(minutes).padStart(2, '0')}:${tail}` : `${minutes}:${tail}`;
}

/** Says how large a file is. */
export function bytesText(bytes: number): string {
  if (bytes >= 1e9) return `${(bytes / 1e9).toFixed(1)} GB`;
  return bytes < 1e6 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1e6).toFixed(1)} MB`;
}

/** Says how many there are of something: "1 track", "3 tracks". */
export function countText(count: number, name: string): string {
  return `${count} ${name}${count === 1 ? '' : 's'}`;
}

/** Says by how much a clock that is off by so many parts per million is off after an hour: "169 ms". */
export function hourlyDriftText(ppm: number): string {
  return `${(Math.abs(ppm) * 3.6).toFixed(0)} ms`;
}
