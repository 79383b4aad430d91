import { type ReactNode, useEffect } from 'react';
import { Link, useParams } from 'react-router';
import type { Check } from '../../../core/check/records.ts';
import { useCheck } from '../../api/checks.ts';
import { Blank } from '../../parts/controls.tsx';
import { PassageProvider } from './passages.tsx';
import { RecordingHeading } from './RecordingHeading.tsx';

/** A page of a recording: its heading, and what is below it once the recording is there. */
export function RecordingPage({
  titleOf,
  children,
}: {
  /** What the window is called; the name is null while it is not known. */
  titleOf: (name: string | null) => string;
  children: (check: Check) => ReactNode;
}) {
  const { checkId = '' } = useParams();
  const { data: check, error } = useCheck(checkId);
  const title = titleOf(check?.name ?? null);
  useEffect(() => {
    document.title = `${title} – Northfen`;
  }, [title]);
  if (error)
    return (
      <Blank title="This recording cannot be shown">
        <p>{error.message}</p>
        <Link to="/recordings" className="text-water underline">
          All recordings
        </Link>
      </Blank>
    );
  if (!check) return <Blank title="Opening the recording …" />;
  return (
    <PassageProvider key={check.id} checkId={check.id}>
      <main className="mx-auto max-w-6xl space-y-5 px-5 py-4 narrow:px-3">
        <RecordingHeading check={check} />
        {children(check)}
      </main>
    </PassageProvider>
  );
}
