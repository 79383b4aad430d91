import { createBrowserRouter, Navigate } from 'react-router';
import { SetupFrame } from './SetupFrame.tsx';
import { BalanceScreen } from './screens/balance/BalanceScreen.tsx';
import { DrillsScreen } from './screens/drills/DrillsScreen.tsx';
import { PlanScreen } from './screens/plan/PlanScreen.tsx';
import { ReachScreen } from './screens/reach/ReachScreen.tsx';
import { RehearseScreen } from './screens/rehearse/RehearseScreen.tsx';
import { SetupSheetScreen } from './screens/sheet/SetupSheetScreen.tsx';
import { SourcesScreen } from './screens/sources/SourcesScreen.tsx';
import { StartScreen } from './screens/start/StartScreen.tsx';
import { TakesScreen } from './screens/takes/TakesScreen.tsx';
import { WiringScreen } from './screens/wiring/WiringScreen.tsx';
import { STATIONS } from './stations.ts';

const SCREENS: Record<string, React.ReactElement> = {
  sources: <SourcesScreen />,
  wiring: <WiringScreen />,
  reach: <ReachScreen />,
  balance: <BalanceScreen />,
  rehearse: <RehearseScreen />,
  takes: <TakesScreen />,
};

export const router = createBrowserRouter([
  { path: '/', element: <StartScreen /> },
  { path: '/plan', element: <PlanScreen /> },
  {
    path: '/setups/:setupId',
    element: <SetupFrame />,
    children: [
      { index: true, element: <Navigate to="reach" replace /> },
      ...STATIONS.map(({ path }) => ({ path, element: SCREENS[path] })),
      { path: 'wiring/steps', element: <SetupSheetScreen /> },
      { path: 'reach/drills', element: <DrillsScreen /> },
      { path: 'takes/:takeId', element: <TakesScreen /> },
      { path: '*', element: <Navigate to="reach" replace /> },
    ],
  },
  { path: '*', element: <Navigate to="/" replace /> },
]);
