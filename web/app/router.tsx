import { lazy, Suspense } from 'react';
import { createBrowserRouter, Navigate } from 'react-router';
import { ShelfScreen } from '../screens/shelf/index.js';
import { NotFound } from './not-found.js';
import { TreeShell } from './shell.js';

const DesignScreen = lazy(async () => ({ default: (await import('../screens/design/index.js')).DesignScreen }));
const ArrivalScreen = lazy(async () => ({ default: (await import('../screens/arrival/index.js')).ArrivalScreen }));
const BringInScreen = lazy(async () => ({ default: (await import('../screens/bring-in/index.js')).BringInScreen }));
const RowsScreen = lazy(async () => ({ default: (await import('../screens/rows/index.js')).RowsScreen }));
const FindingsScreen = lazy(async () => ({ default: (await import('../screens/findings/index.js')).FindingsScreen }));
const TryScreen = lazy(async () => ({ default: (await import('../screens/try/index.js')).TryScreen }));

/** A screen that is fetched when it is first gone to. */
function screen(Screen: React.ComponentType) {
  return (
    <Suspense fallback={<p className="p-6 text-ink-2">Fetching the screen…</p>}>
      <Screen />
    </Suspense>
  );
}

export const router = createBrowserRouter([
  { path: '/', element: <ShelfScreen /> },
  { path: '/bring-in', element: screen(BringInScreen) },
  {
    path: '/tree/:tree',
    element: <TreeShell />,
    children: [
      { index: true, element: <Navigate to="design" replace /> },
      { path: 'design', element: screen(DesignScreen) },
      { path: 'rows', element: screen(RowsScreen) },
      { path: 'rows/:entity', element: screen(RowsScreen) },
      { path: 'rows/:entity/:key', element: screen(RowsScreen) },
      { path: 'try', element: screen(TryScreen) },
      { path: 'findings', element: screen(FindingsScreen) },
      { path: 'arrival', element: screen(ArrivalScreen) },
    ],
  },
  { path: '*', element: <NotFound /> },
]);
