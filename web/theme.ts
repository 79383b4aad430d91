import { useEffect, useState } from 'react';

export type Theme = 'light' | 'dusk';
const KEY = 'northfen.theme';

/** Returns the theme and a function that changes to the other; the choice is kept in this browser. */
export function useTheme(): [Theme, () => void] {
  const [theme, setTheme] = useState<Theme>(() => (localStorage.getItem(KEY) === 'dusk' ? 'dusk' : 'light'));
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
    localStorage.setItem(KEY, theme);
  }, [theme]);
  return [theme, () => setTheme(theme === 'light' ? 'dusk' : 'light')];
}
