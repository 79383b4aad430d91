/** Says that a track was not copied, by what it is and why. */
export function leftOutLine(track: string): string {
  return `Not copied: ${track}.`;
}
