/** Returns the day (`YYYY-MM-DD`) in the calendar of this computer, which is the one that its user lives by. */
export function dayOf(moment: Date): string {
  const two = (value: number) => String(value).padStart(2, '0');
  return `${moment.getFullYear()}-${two(moment.getMonth() + 1)}-${two(moment.getDate())}`;
}
