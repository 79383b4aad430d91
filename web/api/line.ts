/**
 * A browser opens no more than six connections to one server, for all of its windows together. What takes long therefore
 * waits in a line, one for each kind of work, so that some are always left for what is to be quick: changes, and sound that
 * is about to play.
 */
export type Line = 'covariances' | 'calibrations' | 'renders' | 'stems';

/**
 * Does a piece of work when it is its turn, among all windows.
 * @param signal ends the waiting; the work itself has to look at it, too
 */
export function inLine<T>(line: Line, work: () => Promise<T>, signal?: AbortSignal): Promise<T> {
  return navigator.locks.request(`northfen.${line}`, signal ? { signal } : {}, work) as Promise<T>;
}
