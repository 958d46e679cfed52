import { createBrowserRouter, Navigate } from 'react-router';
import { ShelfScreen } from '../screens/shelf/index.js';
import { addressed } from './addressed.js';
import { BrokenPage } from './broken-page.js';
import { fetched } from './fetched.js';
import { NotFound } from './not-found.js';
import { screenModules } from './screen-modules.js';
import { TreeShell } from './shell.js';

const FetchingScreen = () => <p className="p-6 text-ink-2">Fetching the screen…</p>;

const Design = fetched(screenModules.design, FetchingScreen);
const Rows = fetched(screenModules.rows, FetchingScreen);
const Try = fetched(screenModules.try, FetchingScreen);
const Changes = fetched(screenModules.changes, FetchingScreen);
const ReachOfTree = fetched(screenModules.reach, FetchingScreen);
const FindingsOfTree = fetched(screenModules.findings, FetchingScreen);
const Share = fetched(screenModules.share, FetchingScreen);
const Arrival = fetched(screenModules.arrival, FetchingScreen);
const BringIn = fetched(screenModules['bring-in'], FetchingScreen);

/** The screens of a tree, by the word for them in an address. */
const ofTree = new Map(
  Object.entries({
    design: Design,
    changes: Changes,
    rows: Rows,
    try: Try,
    reach: ReachOfTree,
    findings: FindingsOfTree,
    share: Share,
    arrival: Arrival,
  }),
);

/** Waits for the code of the screen that an address is about, so that the first drawing shows it. */
export async function screenAhead(path: string): Promise<void> {
  await ofTree.get(addressed(path)?.screen ?? '')?.ahead();
}

export const router = createBrowserRouter([
  {
    errorElement: <BrokenPage />,
    children: [
      { path: '/', element: <ShelfScreen /> },
      { path: '/bring-in', element: <BringIn /> },
      {
        path: '/tree/:tree',
        element: <TreeShell />,
        children: [
          {
            errorElement: <BrokenPage />,
            children: [
              { index: true, element: <Navigate to="design" replace /> },
              { path: 'design', element: <Design /> },
              { path: 'changes', element: <Changes /> },
              { path: 'rows', element: <Rows /> },
              { path: 'rows/:entity', element: <Rows /> },
              { path: 'rows/:entity/:key', element: <Rows /> },
              { path: 'try', element: <Try /> },
              { path: 'reach', element: <ReachOfTree /> },
              { path: 'findings', element: <FindingsOfTree /> },
              { path: 'share', element: <Share /> },
              { path: 'arrival', element: <Arrival /> },
            ],
          },
        ],
      },
      { path: '*', element: <NotFound /> },
    ],
  },
]);
