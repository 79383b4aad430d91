let tell: (() => void) | null = null;

/**
 * Has it told that something goes on in this thread while no share of a task can be given: a long file is looked through from its beginning.
 * @param onSign null for nobody
 */
export function tellSigns(onSign: (() => void) | null): void {
  tell = onSign;
}

/** Returns what is to be told how far into a file it was read: what is read for the first time is a sign of life, what is read again is none. */
export function signsOfReading(): (to: number) => void {
  let furthest = 0;
  return (to) => {
    if (to <= furthest) return;
    furthest = to;
    tell?.();
  };
}
