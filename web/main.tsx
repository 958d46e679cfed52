import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { Provider } from 'react-redux';
import { RouterProvider } from 'react-router';
import { loadPreferences } from './app/preferences.js';
import { router } from './app/router.js';
import { store } from './app/store.js';
import { applyTheme } from './app/theme.js';
import './styles.css';

await loadPreferences();
applyTheme();
const root = document.getElementById('root');
if (root !== null) {
  createRoot(root).render(
    <StrictMode>
      <Provider store={store}>
        <RouterProvider router={router} />
      </Provider>
    </StrictMode>,
  );
}
