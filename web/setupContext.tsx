import { createContext, useContext } from 'react';
import type { Setup } from '../core/setup/schema.ts';
import type { SetupActions } from './api/setups.ts';

/** The setup that is open: the setup itself, what can be done with it, and where its screens are. */
export interface OpenSetup {
  id: string;
  setup: Setup;
  revision: number;
  undo: string | null;
  redo: string | null;
  actions: SetupActions;
  /** The address of its screens, without a slash at the end. */
  path: string;
}

export const SetupContext = createContext<OpenSetup | null>(null);

/** Returns the setup that is open. Screens are shown only when one is. */
export function useSetup(): OpenSetup {
  const open = useContext(SetupContext);
  if (!open) throw new Error('no setup is open');
  return open;
}
