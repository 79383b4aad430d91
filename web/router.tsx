import { lazy, type ReactElement, Suspense } from 'react';
import { createBrowserRouter, Navigate, useParams } from 'react-router';
import { Blank } from './parts/controls.tsx';
import { SetupFrame } from './SetupFrame.tsx';
import { StartScreen } from './screens/start/StartScreen.tsx';
import { STATIONS } from './stations.ts';

/** Each screen is loaded when it is opened first. */
const BalanceScreen = lazy(() =>
  import('./screens/balance/BalanceScreen.tsx').then((one) => ({ default: one.BalanceScreen })),
);
const DrillsScreen = lazy(() =>
  import('./screens/drills/DrillsScreen.tsx').then((one) => ({ default: one.DrillsScreen })),
);
const PlanScreen = lazy(() =>
  import('./screens/plan/PlanScreen.tsx').then((one) => ({ default: one.PlanScreen })),
);
const ReachScreen = lazy(() =>
  import('./screens/reach/ReachScreen.tsx').then((one) => ({ default: one.ReachScreen })),
);
const RehearseScreen = lazy(() =>
  import('./screens/rehearse/RehearseScreen.tsx').then((one) => ({ default: one.RehearseScreen })),
);
const SetupSheetScreen = lazy(() =>
  import('./screens/sheet/SetupSheetScreen.tsx').then((one) => ({ default: one.SetupSheetScreen })),
);
const SetupsScreen = lazy(() =>
  import('./screens/setups/SetupsScreen.tsx').then((one) => ({ default: one.SetupsScreen })),
);
const SourcesScreen = lazy(() =>
  import('./screens/sources/SourcesScreen.tsx').then((one) => ({ default: one.SourcesScreen })),
);
const TakesScreen = lazy(() =>
  import('./screens/takes/TakesScreen.tsx').then((one) => ({ default: one.TakesScreen })),
);
const WiringScreen = lazy(() =>
  import('./screens/wiring/WiringScreen.tsx').then((one) => ({ default: one.WiringScreen })),
);

const SCREENS: Record<string, ReactElement> = {
  sources: <SourcesScreen />,
  wiring: <WiringScreen />,
  reach: <ReachScreen />,
  balance: <BalanceScreen />,
  rehearse: <RehearseScreen />,
  takes: <TakesScreen />,
};

function page(screen: ReactElement): ReactElement {
  return <Suspense fallback={<Blank title="Opening …" />}>{screen}</Suspense>;
}

/** An address below a setup that leads nowhere opens its board. */
function ToReach() {
  const { setupId } = useParams();
  return <Navigate to={`/setups/${setupId}/reach`} replace />;
}

export const router = createBrowserRouter([
  { path: '/', element: <StartScreen /> },
  { path: '/setups', element: page(<SetupsScreen />) },
  { path: '/plan', element: page(<PlanScreen />) },
  {
    path: '/setups/:setupId',
    element: <SetupFrame />,
    children: [
      { index: true, element: <Navigate to="reach" replace /> },
      ...STATIONS.map(({ path }) => ({ path, element: SCREENS[path] })),
      { path: 'wiring/steps', element: <SetupSheetScreen /> },
      { path: 'reach/drills', element: <DrillsScreen /> },
      { path: 'takes/:takeId', element: <TakesScreen /> },
      { path: '*', element: <ToReach /> },
    ],
  },
  { path: '*', element: <Navigate to="/" replace /> },
]);
