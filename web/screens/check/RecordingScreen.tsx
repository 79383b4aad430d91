import { useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { type CheckPlan, isSamePlan, referencesOf } from '../../../core/check/plan.ts';
import { type BreakOff, breakOffWords } from '../../../core/check/recording.ts';
import type { Check } from '../../../core/check/records.ts';
import { goOnChecking, startCheck, stopCheck } from '../../api/checks.ts';
import { Button, ProgressBar } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { OtherSounds } from './OtherSounds.tsx';
import { RecordingPage } from './RecordingPage.tsx';
import { Timeline } from './Timeline.tsx';
import { TrackTable } from './TrackTable.tsx';
import { Verdicts } from './Verdicts.tsx';

/** One recording: its tracks, what must not be where, the verdict for each use, and the places to be heard. */
export function RecordingScreen() {
  return (
    <RecordingPage titleOf={(name) => name ?? 'Recording'}>
      {(check) => <Shown key={check.id} check={check} />}
    </RecordingPage>
  );
}

function Shown({ check }: { check: Check }) {
  const notify = useNotify();
  const client = useQueryClient();
  // The question is changed here; the server keeps it once it is checked.
  const [plan, setPlan] = useState<CheckPlan | null>(check.plan);
  const [given, setGiven] = useState(check.plan);
  if (!isSamePlan(given, check.plan)) {
    setGiven(check.plan);
    setPlan(check.plan);
  }
  const run = (work: Promise<unknown>) =>
    void work
      .then(() => client.invalidateQueries({ queryKey: ['check', check.id] }))
      .catch((error: Error) => notify('trouble', error.message));
  const isBusy = check.state === 'running' || check.state === 'waiting';
  const isAsked =
    plan !== null &&
    (referencesOf(plan).length > 0 ||
      plan.unknown.length > 0 ||
      plan.tracks.some(({ goesTo, notFor }) => goesTo.some((use) => notFor.includes(use))));
  const isAnswered = check.result !== null && isSamePlan(check.result.plan, plan);
  return (
    <>
      <Work
        check={check}
        onStop={() => run(stopCheck(check.id))}
        onGoOn={() => run(goOnChecking(check.id))}
      />
      {check.inspected?.breakOff && <BrokenOff check={check} breakOff={check.inspected.breakOff} />}
      {check.result && <Verdicts result={check.result} isAnswered={isAnswered} />}
      {check.result && check.inspected && <Timeline check={check} result={check.result} />}
      {check.inspected && plan && (
        <>
          <TrackTable inspected={check.inspected} plan={plan} onPlan={setPlan} />
          <OtherSounds check={check} plan={plan} onPlan={setPlan} />
          <p className="flex flex-wrap items-center gap-3 border-t border-rule pt-3">
            <Button
              weight="main"
              disabled={isBusy || !isAsked}
              onClick={() => run(startCheck(check.id, plan))}
            >
              {check.result ? 'Check again' : 'Check'}
            </Button>
            <span className="text-sm text-soft">
              {isAsked
                ? questionWords(plan)
                : 'Choose where a track goes, and which track or file is not allowed there.'}
            </span>
          </p>
        </>
      )}
    </>
  );
}

function questionWords(plan: CheckPlan): string {
  const references = referencesOf(plan);
  const tracks = new Set(references.flatMap(({ forbiddenIn }) => forbiddenIn)).size;
  if (references.length === 0) return 'There is nothing to compare with.';
  return `Looks for ${references.length} ${references.length === 1 ? 'sound' : 'sounds'} in ${tracks} ${tracks === 1 ? 'track' : 'tracks'}.`;
}

/** Says that the recording lacks its end, and what helps. */
function BrokenOff({ check, breakOff }: { check: Check; breakOff: BreakOff }) {
  return (
    <p className="border-l-4 border-reed bg-sheet px-4 py-2">
      {breakOffWords(breakOff, 'This recording')}.
      {breakOff.atS > 0 && (
        <>
          {' '}
          <Link to={`/recordings/${check.id}/make`} className="text-water underline">
            Repair it
          </Link>{' '}
          to get a whole file of what is there; that file can be checked.
        </>
      )}
    </p>
  );
}

/** How far the work is, or why it ended. */
function Work({ check, onStop, onGoOn }: { check: Check; onStop: () => void; onGoOn: () => void }) {
  const { state, work, message, progress } = check;
  if (state === 'running' || state === 'waiting')
    return (
      <div className="space-y-1.5 border border-rule bg-sheet px-4 py-3">
        <p className="flex justify-between text-sm" role="status">
          <span>
            {message ??
              (state === 'waiting'
                ? 'Waiting for the recordings before it.'
                : work === 'read'
                  ? 'Reading every track …'
                  : 'Comparing tracks …')}
          </span>
          <span>{Math.round(progress * 100)} %</span>
        </p>
        <ProgressBar share={progress} label="Progress" />
        <Button onClick={onStop}>Stop</Button>
      </div>
    );
  if (state === 'idle' && !message) return null;
  return (
    <div
      role={state === 'failed' ? 'alert' : 'status'}
      className="flex flex-wrap items-center gap-3 border-l-4 border-reed bg-sheet px-4 py-2"
    >
      <span className={state === 'failed' ? 'text-clay' : ''}>{message ?? 'Stopped.'}</span>
      <Button onClick={onGoOn}>{state === 'failed' ? 'Try again' : 'Go on'}</Button>
      {state === 'failed' && work === 'read' && (
        <span className="basis-full text-sm">
          If it is damaged, or a track of it cannot be read, save what can be:{' '}
          <Link to={`/recordings/${check.id}/make`} className="text-water underline">
            Repair it
          </Link>
          . The new file can be checked.
        </span>
      )}
    </div>
  );
}
