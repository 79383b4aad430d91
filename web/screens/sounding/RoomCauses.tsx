import { nameOf } from '../../../core/setup/edits.ts';
import type { RoomCause } from '../../../core/sounding/causes.ts';
import { clocksApart } from '../../../core/sounding/clockWords.ts';
import type { Sounding } from '../../../core/sounding/sounding.ts';
import { listed } from '../../../core/words/figures.ts';
import { Button } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';
import { TermsIn } from '../../parts/Term.tsx';
import { useSetup } from '../../setupContext.tsx';

/** Where the real room differs from the setup: each cause with the step that mends the room, or the edit that lets the setup say so. */
export function RoomCauses({ sounding, fileName }: { sounding: Sounding; fileName: string }) {
  const { setup } = useSetup();
  const { causes, differences, heard, unheard } = sounding;
  const clocks = clocksApart(setup, heard);
  const names = (ids: string[]) => listed(ids.map((id) => nameOf(setup, id)));
  return (
    <section aria-label="What the room does" className="mt-6">
      <h2 className="border-b-2 border-ink pb-1 font-title text-xl">3. What your room does</h2>
      <p className="mt-2 font-semibold" role="status">
        {heard.length === 0
          ? `No test sound was heard in ${fileName}. Start the recording first, then play them.`
          : differences.length === 0
            ? `It does what the setup says, for ${heard.length} of ${setup.sources.length} sources.`
            : `It differs from the setup in ${differences.length === 1 ? '1 place' : `${differences.length} places`}.`}
      </p>
      {unheard.length > 0 && heard.length > 0 && (
        <p className="text-sm text-soft">
          Not heard on any track: {names(unheard)}. Either the test sound was not played, or it arrives
          nowhere.
        </p>
      )}
      {clocks.map((sentence) => (
        <p key={sentence} className="text-sm">
          {sentence}
        </p>
      ))}
      <TermsIn text={clocks.join(' ')} />
      <ul aria-label="Causes">
        {causes.map((cause) => (
          <CauseRow key={cause.label} cause={cause} />
        ))}
      </ul>
      {differences.length > 0 && (
        <details className="mt-2" open={causes.length === 0}>
          <summary className="cursor-pointer text-sm text-water underline">
            Every difference ({differences.length})
          </summary>
          <ul aria-label="Differences" className="mt-1 text-sm">
            {differences.map((one) => (
              <li key={`${one.source} ${one.track} ${one.kind}`} className="border-b border-rule py-1">
                {one.message}
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}

function CauseRow({ cause }: { cause: RoomCause }) {
  const { actions } = useSetup();
  const notify = useNotify();
  return (
    <li className="border-b border-rule py-3">
      <p className="font-semibold">In your room: {cause.name}.</p>
      {cause.handwork.map((step) => (
        <p key={step} className="text-sm">
          To mend the room: {step}
        </p>
      ))}
      <p className="mt-1 flex flex-wrap items-center gap-2 text-sm text-soft">
        Or, if the room is as it should be:
        <Button
          onClick={() => {
            actions.edit(cause.edit);
            notify('done', `Now the setup says so: ${cause.label}. Undo takes it back.`);
          }}
        >
          {cause.label}
        </Button>
      </p>
    </li>
  );
}
