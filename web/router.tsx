import { lazy, type ReactElement, Suspense } from 'react';
import { createBrowserRouter, Navigate, useParams, useRouteError } from 'react-router';
import { Blank, Button } from './parts/controls.tsx';
import { StartScreen } from './screens/start/StartScreen.tsx';
import { STATIONS } from './stations.ts';

/** Each screen is loaded when it is opened first; {@link loadScreens} loads the others meanwhile. */
const LOADERS = {
  SetupFrame: () => import('./SetupFrame.tsx').then((one) => one.SetupFrame),
  BalanceScreen: () => import('./screens/balance/BalanceScreen.tsx').then((one) => one.BalanceScreen),
  DrillsScreen: () => import('./screens/drills/DrillsScreen.tsx').then((one) => one.DrillsScreen),
  OutsideFrame: () => import('./OutsideFrame.tsx').then((one) => one.OutsideFrame),
  RecordingScreen: () => import('./screens/check/RecordingScreen.tsx').then((one) => one.RecordingScreen),
  RecordingsScreen: () => import('./screens/check/RecordingsScreen.tsx').then((one) => one.RecordingsScreen),
  MakeScreen: () => import('./screens/deliver/MakeScreen.tsx').then((one) => one.MakeScreen),
  PlanScreen: () => import('./screens/plan/PlanScreen.tsx').then((one) => one.PlanScreen),
  ReachScreen: () => import('./screens/reach/ReachScreen.tsx').then((one) => one.ReachScreen),
  RehearseScreen: () => import('./screens/rehearse/RehearseScreen.tsx').then((one) => one.RehearseScreen),
  SetupSheetScreen: () => import('./screens/sheet/SetupSheetScreen.tsx').then((one) => one.SetupSheetScreen),
  SetupsScreen: () => import('./screens/setups/SetupsScreen.tsx').then((one) => one.SetupsScreen),
  SourcesScreen: () => import('./screens/sources/SourcesScreen.tsx').then((one) => one.SourcesScreen),
  SoundingScreen: () => import('./screens/sounding/SoundingScreen.tsx').then((one) => one.SoundingScreen),
  TakesScreen: () => import('./screens/takes/TakesScreen.tsx').then((one) => one.TakesScreen),
  WiringScreen: () => import('./screens/wiring/WiringScreen.tsx').then((one) => one.WiringScreen),
};
const SetupFrame = lazy(() => LOADERS.SetupFrame().then((screen) => ({ default: screen })));
const BalanceScreen = lazy(() => LOADERS.BalanceScreen().then((screen) => ({ default: screen })));
const DrillsScreen = lazy(() => LOADERS.DrillsScreen().then((screen) => ({ default: screen })));
const OutsideFrame = lazy(() => LOADERS.OutsideFrame().then((screen) => ({ default: screen })));
const RecordingScreen = lazy(() => LOADERS.RecordingScreen().then((screen) => ({ default: screen })));
const RecordingsScreen = lazy(() => LOADERS.RecordingsScreen().then((screen) => ({ default: screen })));
const MakeScreen = lazy(() => LOADERS.MakeScreen().then((screen) => ({ default: screen })));
const PlanScreen = lazy(() => LOADERS.PlanScreen().then((screen) => ({ default: screen })));
const ReachScreen = lazy(() => LOADERS.ReachScreen().then((screen) => ({ default: screen })));
const RehearseScreen = lazy(() => LOADERS.RehearseScreen().then((screen) => ({ default: screen })));
const SetupSheetScreen = lazy(() => LOADERS.SetupSheetScreen().then((screen) => ({ default: screen })));
const SetupsScreen = lazy(() => LOADERS.SetupsScreen().then((screen) => ({ default: screen })));
const SoundingScreen = lazy(() => LOADERS.SoundingScreen().then((screen) => ({ default: screen })));
const SourcesScreen = lazy(() => LOADERS.SourcesScreen().then((screen) => ({ default: screen })));
const TakesScreen = lazy(() => LOADERS.TakesScreen().then((screen) => ({ default: screen })));
const WiringScreen = lazy(() => LOADERS.WiringScreen().then((screen) => ({ default: screen })));

/** Loads every screen, so that they are there when the server is not. Called once there is nothing else to do. */
export function loadScreens(): void {
  for (const load of Object.values(LOADERS)) load().catch(() => {});
}

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

/** What is shown where a screen cannot be: it could not be loaded, or it failed. Changes that wait are kept. */
function Broken() {
  const error = useRouteError();
  const message = error instanceof Error ? error.message : String(error);
  const isLoading = /dynamically imported module|Importing a module/.test(message);
  return (
    <main>
      <Blank title={isLoading ? 'This screen could not be loaded' : 'This screen has failed'}>
        <p>
          {isLoading
            ? 'Northfen does not answer, or was updated meanwhile. Nothing is lost.'
            : 'That is a fault in Northfen. What you changed is kept.'}
        </p>
        {!isLoading && <p className="text-sm text-soft">{message}</p>}
        <Button weight="main" onClick={() => window.location.reload()}>
          Load it again
        </Button>
      </Blank>
    </main>
  );
}

export const router = createBrowserRouter([
  { path: '/', element: <StartScreen />, errorElement: <Broken /> },
  {
    errorElement: <Broken />,
    element: page(<OutsideFrame />),
    children: [
      { path: '/setups', element: page(<SetupsScreen />) },
      { path: '/recordings', element: page(<RecordingsScreen />) },
      { path: '/recordings/:checkId', element: page(<RecordingScreen />) },
      { path: '/recordings/:checkId/make', element: page(<MakeScreen />) },
    ],
  },
  { path: '/plan', element: page(<PlanScreen />), errorElement: <Broken /> },
  {
    path: '/setups/:setupId',
    errorElement: <Broken />,
    element: page(<SetupFrame />),
    children: [
      { index: true, element: <Navigate to="reach" replace /> },
      ...STATIONS.map(({ path }) => ({ path, element: SCREENS[path] })),
      { path: 'wiring/steps', element: <SetupSheetScreen /> },
      { path: 'reach/drills', element: <DrillsScreen /> },
      { path: 'takes/sounding', element: <SoundingScreen /> },
      { path: 'takes/:takeId', element: <TakesScreen /> },
      { path: '*', element: <ToReach /> },
    ],
  },
  { path: '*', element: <Navigate to="/" replace /> },
]);
