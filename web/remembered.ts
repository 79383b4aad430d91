/** What this browser remembers, by the name it is kept under. Without storage it remembers nothing. */
function remembered(key: string): [recall: () => string | null, remember: (value: string) => void] {
  return [
    () => {
      try {
        return localStorage.getItem(key);
      } catch {
        return null;
      }
    },
    (value) => {
      try {
        localStorage.setItem(key, value);
      } catch {
        // It is asked or shown once more next time.
      }
    },
  ];
}

/** The id of the setup that was open last; null when none was. */
export const [lastSetup, rememberLast] = remembered('northfen.last');

/** The id of the last go of which somebody has read what came of it. */
export const [lastGoRead, rememberGoRead] = remembered('northfen.goRead');
