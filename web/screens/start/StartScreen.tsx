import { Navigate } from 'react-router';
import { useSetupList } from '../../api/setups.ts';
import { Blank, Button } from '../../parts/controls.tsx';
import { lastSetup } from '../../remembered.ts';

/** The way in: opens the setup that was open last, or begins from nothing when there is none. */
export function StartScreen() {
  const query = useSetupList();
  const last = query.data?.find(({ id }) => id === lastSetup()) ?? query.data?.[0];
  if (last) return <Navigate to={`/setups/${last.id}/reach`} replace />;
  if (query.data) return <Navigate to="/plan" replace />;
  if (query.isPending) return <Blank title="Opening …" />;
  if (query.error) {
    return (
      <Blank title="Northfen does not answer">
        <p>{query.error.message}</p>
        <Button onClick={() => query.refetch()}>Try again</Button>
      </Blank>
    );
  }
  return null;
}
