import { Link, Navigate, useNavigate } from 'react-router';
import { START_NAMES, STARTS } from '../../../core/demo/starts.ts';
import { startSetup, useSetupList } from '../../api/setups.ts';
import { Blank, Button } from '../../parts/controls.tsx';
import { useNotify } from '../../parts/notices.tsx';

/** The way in: opens the first setup, or offers what to start from when there is none. */
export function StartScreen() {
  const query = useSetupList();
  const navigate = useNavigate();
  const notify = useNotify();
  const first = query.data?.[0];
  if (first) return <Navigate to={`/setups/${first.id}/reach`} replace />;
  if (query.isPending) return <Blank title="Opening …" />;
  if (query.error) {
    return (
      <Blank title="Northfen does not answer">
        <p>{query.error.message}</p>
        <Button onClick={() => query.refetch()}>Try again</Button>
      </Blank>
    );
  }
  return (
    <Blank title="There is no setup yet">
      <p>
        A setup says who makes sound, and who may hear it.{' '}
        <Link to="/plan" className="text-water underline">
          Plan your own from nothing
        </Link>
        , or start from one of these:
      </p>
      {START_NAMES.map((from) => (
        <div key={from} className="flex w-full items-center justify-between border-b border-rule pb-2">
          <span>
            {STARTS[from].name} <span className="block text-sm text-soft">{STARTS[from].hint}</span>
          </span>
          <Button
            onClick={() =>
              startSetup(from)
                .then((stored) => navigate(`/setups/${stored.id}/reach`))
                .catch((error: Error) => notify('trouble', error.message))
            }
          >
            Start
          </Button>
        </div>
      ))}
    </Blank>
  );
}
