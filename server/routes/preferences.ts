import { Router } from 'express';
import { Preferences } from '../../contract/index.js';
import type { Store } from '../store/index.js';
import { bodyOf } from './answers.js';

/** Preferences: widths of panes, light or dark, tours that were seen. */
export function preferenceRoutes(store: Store): Router {
  const router = Router();
  router.get('/preferences', (_request, response) => {
    response.json(store.preferences());
  });
  router.patch('/preferences', (request, response) => {
    const wanted = bodyOf(Preferences, request, response);
    if (wanted === null) return;
    for (const [name, value] of Object.entries(wanted)) store.setPreference(name, value);
    response.json(store.preferences());
  });
  return router;
}
