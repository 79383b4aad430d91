import { clsx } from 'clsx';
import { Trash2 } from 'lucide-react';
import { useState } from 'react';
import { Link, NavLink, useNavigate } from 'react-router';
import type { Check } from '../../../core/check/records.ts';
import { countText } from '../../../core/words/figures.ts';
import { removeCheck, renameCheck } from '../../api/checks.ts';
import { formatBytes, formatClock, formatMoment } from '../../format.ts';
import { Button, NameField } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { Sheet } from '../../parts/Sheet.tsx';

const PAGES = [
  { to: '', name: 'What is in it' },
  { to: '/make', name: 'Make files' },
];

/** What a recording is, with its pages: what is in it, and what is made of it. */
export function RecordingHeading({ check }: { check: Check }) {
  const notify = useNotify();
  const navigate = useNavigate();
  const [isRemoving, setRemoving] = useState(false);
  const report = (error: Error) => notify('trouble', error.message);
  const facts = [
    check.durationS === null ? null : formatClock(check.durationS),
    check.trackCount === null ? null : countText(check.trackCount, 'audio track'),
    formatBytes(check.bytes),
    check.place === 'folder' ? `media folder: ${check.path}` : 'uploaded',
    check.checkedAt ? `checked ${formatMoment(check.checkedAt)}` : null,
  ];
  return (
    <div>
      <Link to="/recordings" className="inline-flex min-h-6 items-center text-sm text-water underline">
        All recordings
      </Link>
      <h1 className="sr-only">{check.name}</h1>
      <div className="flex items-start justify-between gap-3">
        <NameField
          value={check.name}
          label="Name of the recording"
          className="-ml-1 min-w-0 flex-1 font-title text-2xl leading-tight"
          onChange={(name) => void renameCheck(check.id, name).catch(report)}
        />
        <Button weight="quiet" aria-label={`Remove ${check.name}`} onClick={() => setRemoving(true)}>
          <Trash2 size={15} />
        </Button>
      </div>
      <nav aria-label="Pages of the recording" className="mt-1 flex gap-1 border-b border-rule">
        {PAGES.map(({ to, name }) => (
          <NavLink
            key={name}
            end
            to={`/recordings/${check.id}${to}`}
            className={({ isActive }) =>
              clsx(
                '-mb-px border-b-[3px] px-2.5 py-1',
                isActive ? 'border-water font-semibold text-water' : 'border-transparent hover:bg-sunk',
              )
            }
          >
            {name}
          </NavLink>
        ))}
      </nav>
      <p className="pt-1 text-sm break-words text-soft">
        {facts.filter((fact) => fact !== null).join(' · ')}
      </p>
      {isRemoving && (
        <Sheet title={`Remove “${check.name}”?`} onClose={() => setRemoving(false)}>
          <p className="mb-4">
            {check.place === 'folder'
              ? 'Its verdict and marks are deleted. The file stays in the media folder, and what was made of it in its own.'
              : 'Its verdict, its marks and the uploaded copy are deleted. Your own file stays where it is, and so does what was made of it.'}
          </p>
          <div className="flex gap-2">
            <Button
              weight="danger"
              onClick={() => void removeCheck(check.id).then(() => navigate('/recordings'), report)}
            >
              Remove it
            </Button>
            <Button onClick={() => setRemoving(false)}>Keep it</Button>
          </div>
        </Sheet>
      )}
    </div>
  );
}
