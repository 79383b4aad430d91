import { clsx } from 'clsx';
import { NavLink, Outlet } from 'react-router';
import { useServerEvents } from './api/events.ts';
import { ThemeButton } from './parts/ThemeButton.tsx';

const PAGES = [
  { to: '/setups', name: 'Setups' },
  { to: '/recordings', name: 'Recordings' },
];

/** The frame round the screens that belong to no setup. */
export function OutsideFrame() {
  useServerEvents();
  return (
    <div className="flex h-full flex-col">
      <header className="flex min-h-12 items-center gap-4 border-b border-soft px-5 narrow:px-3">
        <span className="font-title text-lg">Northfen</span>
        <nav aria-label="Outside of setups" className="flex self-stretch">
          {PAGES.map(({ to, name }) => (
            <NavLink
              key={to}
              to={to}
              className={({ isActive }) =>
                clsx(
                  'flex items-center border-b-[3px] px-2.5',
                  isActive ? 'border-water font-semibold text-water' : 'border-transparent hover:bg-sunk',
                )
              }
            >
              {name}
            </NavLink>
          ))}
        </nav>
        <ThemeButton className="ml-auto" />
      </header>
      <div className="min-h-0 flex-1 overflow-auto">
        <Outlet />
      </div>
    </div>
  );
}
