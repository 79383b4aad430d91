import { clsx } from 'clsx';
import { ArrowLeft, Download, Printer } from 'lucide-react';
import { useMemo } from 'react';
import { Link } from 'react-router';
import { STEP_GROUPS, type Step, stateOf, stepsAsMarkdown, stepsOf } from '../../../core/sheet/steps.ts';
import { Blank, Button, ProgressBar, ScreenTitle } from '../../parts/controls.tsx';
import { useSetup } from '../../setupContext.tsx';

/** The set-up sheet: what to do on the real machines, tick by tick. */
export function SetupSheetScreen() {
  const { setup, path } = useSetup();
  const steps = useMemo(() => stepsOf(setup), [setup]);
  if (steps.length === 0) {
    return (
      <Blank title="Nothing to set up yet">
        <p>The set-up sheet lists what to do on your machines. It needs sources and tracks.</p>
        <Link to={`${path}/sources`} className="text-water underline">
          Add the first source
        </Link>
      </Blank>
    );
  }
  const done = steps.filter((step) => stateOf(step, setup.ticks) === 'done').length;
  const again = steps.filter((step) => stateOf(step, setup.ticks) === 'again').length;
  return (
    <div className="mx-auto max-w-4xl px-6 py-4">
      <Link
        to={`${path}/wiring`}
        className="mb-1 inline-flex items-center gap-1 text-sm text-water print:hidden"
      >
        <ArrowLeft size={14} /> Wiring
      </Link>
      <div className="flex items-end justify-between gap-4">
        <ScreenTitle title={`Set-up sheet: ${setup.name}`}>
          What to do by hand, in order. A change in the setup marks what it touches as to be done again.
        </ScreenTitle>
        <div className="flex gap-2 print:hidden">
          <Button onClick={() => window.print()}>
            <Printer size={14} /> Print
          </Button>
          <Button onClick={() => download(setup.name, stepsAsMarkdown(setup))}>
            <Download size={14} /> Markdown
          </Button>
        </div>
      </div>
      <div className="mt-3 flex items-center gap-3 text-sm print:hidden">
        <ProgressBar share={done / steps.length} label="Steps done" />
        <span className="whitespace-nowrap text-soft">
          {done} of {steps.length} done{again > 0 && `, ${again} to do again`}
        </span>
      </div>
      {STEP_GROUPS.map((group) => {
        const mine = steps.filter((step) => step.group === group);
        return mine.length === 0 ? null : (
          <section key={group} className="mt-5">
            <h2 className="border-b-2 border-ink font-title text-lg">{group}</h2>
            <ul>
              {mine.map((step) => (
                <StepRow key={step.id} step={step} />
              ))}
            </ul>
          </section>
        );
      })}
    </div>
  );
}

function StepRow({ step }: { step: Step }) {
  const { setup, actions } = useSetup();
  const state = stateOf(step, setup.ticks);
  return (
    <li className="border-b border-rule" data-step={step.id} data-state={state}>
      <label className="flex items-baseline gap-3 py-1.5 hover:bg-sunk">
        <input
          type="checkbox"
          checked={state === 'done'}
          onChange={() =>
            actions.edit({
              edit: 'tickStep',
              step: step.id,
              text: state === 'done' ? null : step.text,
            })
          }
        />
        <span className={clsx('flex-1 leading-snug', state === 'done' && 'text-soft')}>{step.text}</span>
        {state === 'again' && <strong className="text-sm text-reed">do again</strong>}
        {state === 'done' && <span className="text-sm text-moss">done</span>}
      </label>
    </li>
  );
}

/** Hands a text to the browser as a file. */
function download(name: string, text: string): void {
  const url = URL.createObjectURL(new Blob([text], { type: 'text/markdown' }));
  const link = document.createElement('a');
  link.href = url;
  link.download = `${name.replace(/[^\p{L}\p{N} -]+/gu, '').trim() || 'set-up sheet'}.md`;
  link.click();
  URL.revokeObjectURL(url);
}
