import { Link, NavLink, useNavigate, useParams } from 'react-router';
import { useJobs, useTake, useTakes } from '../../api/takes.ts';
import type { TakeSummary } from '../../api/types.ts';
import { formatClock, formatMoment } from '../../format.ts';
import { Blank, Button, ScreenTitle } from '../../parts/controls.tsx';
import { useSetup } from '../../setupContext.tsx';
import { RenderList } from './RenderList.tsx';
import { TakeDetail } from './TakeDetail.tsx';
import { CONCLUSION_LOOKS } from './verdicts.ts';

/** Takes: what was rendered of this setup, what is in it, and the proof. */
export function TakesScreen() {
  const { id, path, revision } = useSetup();
  const { takeId } = useParams();
  const navigate = useNavigate();
  const takes = useTakes(id);
  const { data: jobs = [] } = useJobs(id);
  const isRunning = jobs.some((job) => job.state === 'running');
  const shown = takeId ?? takes.data?.[0]?.id;
  const take = useTake(shown);

  return (
    <div className="h-full grid-cols-[13rem_minmax(0,1fr)] wide:grid narrow:overflow-auto">
      <aside
        aria-label="All takes"
        className="overflow-auto border-rule bg-sheet px-4 py-3 wide:border-r narrow:max-h-[40%] narrow:border-b"
      >
        <ScreenTitle title="Takes" />
        <p className="py-1 text-sm">
          <Link to={`${path}/takes/sounding`} className="flex min-h-6 items-center text-water underline">
            Sound the real room
          </Link>
          <Link to="/recordings" className="flex min-h-6 items-center text-water underline">
            Check a recording
          </Link>
        </p>
        <RenderList jobs={jobs} />
        <ul aria-label="Takes">
          {takes.data?.map((one) => (
            <TakeLink key={one.id} take={one} to={`${path}/takes/${one.id}`} isShown={one.id === shown} />
          ))}
        </ul>
      </aside>
      <div className="px-5 py-3 wide:overflow-auto narrow:px-3">
        {shown === undefined && takes.isSuccess && (
          <Blank level={2} title={isRunning ? 'The first take is being made' : 'No take yet'}>
            <p>
              A take is a real recording of this setup: every track of the sheet, mixed by Northfen, in one
              file. It is measured, and you see for each source and track what is really in it.
            </p>
            {!isRunning && <p className="text-soft">Press Render, at the top.</p>}
          </Blank>
        )}
        {shown !== undefined && take.isPending && <Blank level={2} title="Opening the take …" />}
        {take.error && (
          <Blank level={2} title="This take cannot be shown">
            <p>{take.error.message}</p>
            <Button onClick={() => take.refetch()}>Try again</Button>
          </Blank>
        )}
        {take.data && (
          <TakeDetail
            take={take.data}
            isCurrent={take.data.revision === revision}
            onDeleted={() => navigate(`${path}/takes`)}
          />
        )}
      </div>
    </div>
  );
}

function TakeLink({ take, to, isShown }: { take: TakeSummary; to: string; isShown: boolean }) {
  const verdict = CONCLUSION_LOOKS[take.conclusion.kind];
  return (
    <li>
      <NavLink
        to={to}
        className={`block border-b border-rule py-2 leading-tight hover:bg-paper ${isShown ? 'border-l-[3px] border-l-water pl-2' : 'pl-[11px]'}`}
      >
        <span className="block font-semibold">{take.name}</span>
        <span className={`block text-sm ${verdict.className}`}>{verdict.word}</span>
        <span className="block text-xs text-soft">
          {formatClock(take.durationS)}, {formatMoment(take.createdAt)}
        </span>
      </NavLink>
    </li>
  );
}
