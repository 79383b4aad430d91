import { Moon, Sun } from 'lucide-react';
import { useTheme } from '../theme.ts';
import { Button } from './controls.tsx';

/** Changes between the light and the dusk theme. */
export function ThemeButton({ className }: { className?: string }) {
  const [theme, changeTheme] = useTheme();
  return (
    <Button
      weight="quiet"
      className={className}
      onClick={changeTheme}
      aria-label={theme === 'light' ? 'Change to the dusk theme' : 'Change to the light theme'}
      title={theme === 'light' ? 'Dusk theme' : 'Light theme'}
    >
      {theme === 'light' ? <Moon size={17} /> : <Sun size={17} />}
    </Button>
  );
}
