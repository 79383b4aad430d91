import { cancelRender } from '../../api/takes.ts';
import type { Job } from '../../api/types.ts';
import { Button, ProgressBar } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';

/** The render that runs, with its progress; and how the last one ended, when that was not with a take. */
export function RenderList({ jobs }: { jobs: Job[] }) {
  const notify = useNotify();
  const running = jobs.filter((job) => job.state === 'running');
  const last = jobs[0];
  return (
    <>
      {running.map((job) => (
        <div key={job.id} className="space-y-1.5 border-b border-rule py-2" data-testid="running-render">
          <p className="flex items-baseline justify-between text-sm">
            <span>{job.phase} …</span>
            <span>{Math.round(job.progress * 100)} %</span>
          </p>
          <ProgressBar share={job.progress} label="Render" />
          <Button
            onClick={() =>
              void cancelRender(job.id).catch((error: Error) => notify('trouble', error.message))
            }
          >
            Cancel
          </Button>
        </div>
      ))}
      {last && (last.state === 'failed' || last.state === 'interrupted' || last.state === 'cancelled') && (
        <p
          role="status"
          className={`border-b border-rule py-2 text-sm ${last.state === 'cancelled' ? 'text-soft' : 'text-clay'}`}
        >
          <strong>
            {last.state === 'failed'
              ? 'The last render failed. '
              : last.state === 'interrupted'
                ? 'The last render was interrupted. '
                : ''}
          </strong>
          {last.message}
        </p>
      )}
    </>
  );
}
