import { StrictMode, useLayoutEffect } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { RouterProvider } from 'react-router';
import { startDesign } from './design-client.js';
import { endFirstPicture } from './first-picture.js';
import { loadPreferences } from './preferences.js';
import { router, screenAhead } from './router.js';
import { store } from './store.js';
import { applyTheme } from './theme.js';
import { openTold } from './use-tree.js';

/** How long after the page is drawn the worker is started where nothing was asked of it, in milliseconds. */
const AFTER_DRAWING = 500;

/** Takes the first picture away in the moment in which the page itself is there. */
function FirstPictureEnds(): null {
  useLayoutEffect(endFirstPicture, []);
  return null;
}

/** Draws the page, in the theme and ways that were chosen. */
export async function showPage(): Promise<void> {
  await Promise.all([loadPreferences(), screenAhead(location.pathname)]);
  applyTheme();
  const isTold = openTold(location.pathname);
  const root = document.getElementById('root');
  if (root === null) return;
  createRoot(root).render(
    <StrictMode>
      <Provider store={store}>
        <FirstPictureEnds />
        <RouterProvider router={router} />
      </Provider>
    </StrictMode>,
  );
  // What is typed or pointed at next is asked of the worker, which is ready by then.
  if (isTold) setTimeout(() => startDesign(), AFTER_DRAWING);
}
