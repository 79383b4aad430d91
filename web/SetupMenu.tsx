import { useQueryClient } from '@tanstack/react-query';
import { ChevronDown } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { START_NAMES, STARTS } from '../core/demo/startNames.ts';
import { importSetup, startSetup, useSetupList } from './api/setups.ts';
import type { StoredSetup } from './api/types.ts';
import { HistorySheet } from './HistorySheet.tsx';
import { NameField } from './parts/controls.tsx';
import { useNotify } from './parts/notices.tsx';
import { SetupFileInput } from './parts/SetupFileInput.tsx';
import { RemoveSetup } from './screens/setups/RemoveSetup.tsx';
import { useSetup } from './setupContext.tsx';

const itemClass =
  'flex cursor-default items-center justify-between gap-6 px-3 py-1 outline-none data-[highlighted]:bg-water data-[highlighted]:text-paper';

/** The setup's name, to be changed in place, and the menu of all setups. */
export function SetupMenu() {
  const { id, setup, actions } = useSetup();
  const { data: list = [] } = useSetupList();
  const client = useQueryClient();
  const [removing, setRemoving] = useState(false);
  const [isHistory, setHistory] = useState(false);
  const file = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const notify = useNotify();
  const open = (stored: StoredSetup) => navigate(`/setups/${stored.id}/reach`);
  const attempt = (work: Promise<StoredSetup>) =>
    work.then(open).catch((error: Error) => notify('trouble', error.message));

  return (
    <div className="flex items-center">
      <svg aria-hidden="true" viewBox="0 0 32 32" className="mr-2 h-7 w-7">
        <path d="M3 22c4-3 8 3 13 0s9-3 13 0" fill="none" stroke="var(--water)" strokeWidth="3" />
        <path
          d="M11 21V7m0 6c-3-1-4-3-4-6m9 14V4m0 7c3-1 4-3 4-6"
          fill="none"
          stroke="var(--reed)"
          strokeWidth="2"
          strokeLinecap="round"
        />
      </svg>
      <NameField
        value={setup.name}
        label="Name of the setup"
        onChange={(name) => actions.edit({ edit: 'renameSetup', name })}
        className="w-40 font-title text-lg cramped:w-32"
      />
      <DropdownMenu.Root modal={false}>
        <DropdownMenu.Trigger
          aria-label="All setups"
          className="grid size-7 place-items-center rounded-sm hover:bg-sunk"
        >
          <ChevronDown size={16} />
        </DropdownMenu.Trigger>
        <DropdownMenu.Content
          align="start"
          className="z-40 max-h-[80vh] min-w-64 overflow-auto border border-soft bg-sheet py-1 shadow-xl"
        >
          <DropdownMenu.Label className="px-3 py-1 text-xs text-soft">Setups</DropdownMenu.Label>
          {list.map((one) => (
            <DropdownMenu.Item
              key={one.id}
              className={itemClass}
              onSelect={() => navigate(`/setups/${one.id}/reach`)}
            >
              {one.name}
              {one.id === id && <span className="text-xs">open</span>}
            </DropdownMenu.Item>
          ))}
          <DropdownMenu.Item className={itemClass} onSelect={() => navigate('/setups')}>
            All setups: rename, copy, delete …
          </DropdownMenu.Item>
          <DropdownMenu.Separator className="my-1 border-t border-rule" />
          <DropdownMenu.Label className="px-3 py-1 text-xs text-soft">Start another from</DropdownMenu.Label>
          <DropdownMenu.Item className={itemClass} onSelect={() => navigate('/plan')}>
            Plan one from nothing …
          </DropdownMenu.Item>
          {START_NAMES.map((from) => (
            <DropdownMenu.Item key={from} className={itemClass} onSelect={() => attempt(startSetup(from))}>
              {STARTS[from].name}
            </DropdownMenu.Item>
          ))}
          <DropdownMenu.Item className={itemClass} onSelect={() => file.current?.click()}>
            A setup file …
          </DropdownMenu.Item>
          <DropdownMenu.Separator className="my-1 border-t border-rule" />
          <DropdownMenu.Item className={itemClass} onSelect={() => setHistory(true)}>
            History of this setup …
          </DropdownMenu.Item>
          <DropdownMenu.Item className={itemClass} asChild>
            <a href={`/api/setups/${id}/export`} download>
              Export this setup
            </a>
          </DropdownMenu.Item>
          <DropdownMenu.Item className={itemClass} onSelect={() => setRemoving(true)}>
            Delete this setup …
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Root>
      <SetupFileInput ref={file} onText={(text) => void attempt(importSetup(text))} />
      {removing && (
        <RemoveSetup
          setup={{ id, name: setup.name }}
          onRemoved={() => {
            void client.invalidateQueries({ queryKey: ['setups'] });
            navigate('/setups');
          }}
          onClose={() => setRemoving(false)}
        />
      )}
      {isHistory && <HistorySheet onClose={() => setHistory(false)} />}
    </div>
  );
}
