import { useQueryClient } from '@tanstack/react-query';
import { Copy, Download, Trash2, Upload } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { START_NAMES, STARTS } from '../../../core/demo/startNames.ts';
import { copySetup, importSetup, renameSetup, startSetup, useSetupList } from '../../api/setups.ts';
import type { SetupSummary, StoredSetup } from '../../api/types.ts';
import { formatMoment } from '../../format.ts';
import { Blank, Button, NameField, ScreenTitle } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { SetupFileInput } from '../../parts/SetupFileInput.tsx';
import { RemoveSetup } from './RemoveSetup.tsx';

/** All setups of this computer: open, rename, copy, export, delete one, or begin another. */
export function SetupsScreen() {
  const query = useSetupList();
  const client = useQueryClient();
  const navigate = useNavigate();
  const notify = useNotify();
  const file = useRef<HTMLInputElement>(null);
  const [removing, setRemoving] = useState<SetupSummary | null>(null);
  useEffect(() => {
    document.title = 'Setups – Northfen';
  }, []);
  const report = (error: Error) => notify('trouble', error.message);
  const refresh = () => client.invalidateQueries({ queryKey: ['setups'] });
  const open = (work: Promise<StoredSetup>) =>
    work.then((stored) => navigate(`/setups/${stored.id}/reach`)).catch(report);
  const change = (work: Promise<unknown>) => void work.then(refresh).catch(report);
  const list = [...(query.data ?? [])].sort((a, b) => b.updatedAt.localeCompare(a.updatedAt));
  return (
    <main className="mx-auto max-w-4xl space-y-5 px-5 py-6">
      <ScreenTitle title="Setups">
        Each is one arrangement: who makes sound, how it is wired, and who may hear it.
      </ScreenTitle>
      {query.isPending && <p className="text-soft">Opening …</p>}
      {query.error && (
        <Blank level={2} title="The setups cannot be shown">
          <p>{query.error.message}</p>
          <Button onClick={() => query.refetch()}>Try again</Button>
        </Blank>
      )}
      {query.data && list.length === 0 && <p className="text-soft">There is no setup yet.</p>}
      {list.length > 0 && (
        <table className="stacking w-full border-collapse text-left" aria-label="Setups">
          <thead>
            <tr className="border-b border-soft text-xs text-soft">
              <th scope="col" className="py-1 pr-3 font-normal">
                Name
              </th>
              <th scope="col" className="py-1 pr-3 font-normal">
                Last changed
              </th>
              <th scope="col" className="py-1 font-normal">
                <span className="sr-only">Open, copy, export, delete</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {list.map((one) => (
              <tr key={one.id} className="border-b border-rule" data-setup={one.id}>
                <td className="py-1.5 pr-3">
                  <NameField
                    value={one.name}
                    label={`Name of ${one.name}`}
                    className="w-full max-w-80 font-semibold"
                    onChange={(name) => change(renameSetup(one, name))}
                  />
                </td>
                <td className="py-1.5 pr-3 whitespace-nowrap text-soft" data-title="Last changed">
                  {formatMoment(one.updatedAt)}
                </td>
                <td className="py-1.5">
                  <span className="flex flex-wrap items-center gap-1.5">
                    <Link
                      to={`/setups/${one.id}/reach`}
                      aria-label={`Open ${one.name}`}
                      className="rounded-sm border border-water bg-water px-2.5 py-1 text-sm text-paper hover:brightness-110"
                    >
                      Open
                    </Link>
                    <Button
                      aria-label={`Copy ${one.name}`}
                      title="Make a copy"
                      onClick={() => change(copySetup(one.id))}
                    >
                      <Copy size={15} />
                    </Button>
                    <a
                      href={`/api/setups/${one.id}/export`}
                      download
                      aria-label={`Export ${one.name}`}
                      title="Export as a file"
                      className="inline-flex rounded-sm border border-rule bg-sheet p-[6.5px] hover:border-ink"
                    >
                      <Download size={15} />
                    </a>
                    <Button
                      weight="quiet"
                      aria-label={`Delete ${one.name}`}
                      title="Delete …"
                      onClick={() => setRemoving(one)}
                    >
                      <Trash2 size={15} />
                    </Button>
                  </span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <section aria-label="Begin another">
        <h2 className="mb-2 border-b-2 border-ink pb-1 font-title text-lg">Begin another</h2>
        <ul className="grid gap-x-8 sm:grid-cols-2">
          <li className="flex items-center justify-between gap-3 border-b border-rule py-1.5">
            <span>
              Your own, from nothing
              <span className="block text-sm text-soft">say who makes sound and what you have</span>
            </span>
            <Link
              to="/plan"
              aria-label="Begin from nothing"
              className="rounded-sm border border-rule bg-sheet px-2.5 py-1 text-sm hover:border-ink"
            >
              Begin
            </Link>
          </li>
          {START_NAMES.map((from) => (
            <li key={from} className="flex items-center justify-between gap-3 border-b border-rule py-1.5">
              <span>
                {STARTS[from].name}
                <span className="block text-sm text-soft">{STARTS[from].hint}</span>
              </span>
              <Button aria-label={`Begin: ${STARTS[from].name}`} onClick={() => void open(startSetup(from))}>
                Begin
              </Button>
            </li>
          ))}
          <li className="flex items-center justify-between gap-3 border-b border-rule py-1.5">
            <span>
              A setup file
              <span className="block text-sm text-soft">one that was exported</span>
            </span>
            <Button onClick={() => file.current?.click()}>
              <Upload size={14} /> Choose …
            </Button>
          </li>
        </ul>
        <SetupFileInput ref={file} onText={(text) => void open(importSetup(text))} />
      </section>
      {removing && (
        <RemoveSetup setup={removing} onRemoved={() => void refresh()} onClose={() => setRemoving(null)} />
      )}
    </main>
  );
}
