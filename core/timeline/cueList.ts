/** A stretch in which a record was heard. */
export interface Cue {
  record: string;
  track: string;
  fromS: number;
  untilS: number;
  levelDb: number;
}

/** Returns a list of what was heard where, as CSV (RFC 4180), for whoever has to report it. */
export function cueListFile(cues: Cue[]): string {
  const rows = [...cues]
    .sort((a, b) => a.fromS - b.fromS)
    .map(({ record, track, fromS, untilS, levelDb }) => [
      field(record),
      field(track),
      fromS.toFixed(1),
      untilS.toFixed(1),
      (untilS - fromS).toFixed(1),
      levelDb.toFixed(1),
    ]);
  const head = ['record', 'heard in', 'from (s)', 'to (s)', 'length (s)', 'level (dB)'];
  return `${[head, ...rows].map((row) => row.join(',')).join('\r\n')}\r\n`;
}

/** A field, safe from programs that would take it for a formula. */
function field(text: string): string {
  const safe = /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
  return `"${safe.replaceAll('"', '""')}"`;
}
