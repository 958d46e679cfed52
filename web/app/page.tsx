import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { RouterProvider } from 'react-router';
import { loadPreferences } from './preferences.js';
import { router } from './router.js';
import { store } from './store.js';
import { applyTheme } from './theme.js';

/** Draws the page, in the theme and ways that were chosen. */
export async function showPage(): Promise<void> {
  await loadPreferences();
  applyTheme();
  const root = document.getElementById('root');
  if (root === null) return;
  createRoot(root).render(
    <StrictMode>
      <Provider store={store}>
        <RouterProvider router={router} />
      </Provider>
    </StrictMode>,
  );
}
