import { createBrowserRouter, Navigate } from 'react-router';
import { DesignScreen } from '../screens/design/index.js';
import { RowsScreen } from '../screens/rows/index.js';
import { ShelfScreen } from '../screens/shelf/index.js';
import { TryScreen } from '../screens/try/index.js';
import { NotFound } from './not-found.js';
import { TreeShell } from './shell.js';

export const router = createBrowserRouter([
  { path: '/', element: <ShelfScreen /> },
  {
    path: '/tree/:tree',
    element: <TreeShell />,
    children: [
      { index: true, element: <Navigate to="design" replace /> },
      { path: 'design', element: <DesignScreen /> },
      { path: 'rows', element: <RowsScreen /> },
      { path: 'rows/:entity', element: <RowsScreen /> },
      { path: 'rows/:entity/:key', element: <RowsScreen /> },
      { path: 'try', element: <TryScreen /> },
    ],
  },
  { path: '*', element: <NotFound /> },
]);
