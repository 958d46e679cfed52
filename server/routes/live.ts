import { Router } from 'express';
import type { LiveState } from '../../contract/index.js';
import type { LiveRequests } from '../live/index.js';
import type { Store } from '../store/index.js';
import { notFound } from './answers.js';

interface LiveStateRoutes {
  readonly store: Store;
  readonly token: string;
  readonly requests: LiveRequests;
}

/** What a page tells of a tree’s live endpoint. */
export function liveStateRoutes({ store, token, requests }: LiveStateRoutes): Router {
  const router = Router();
  router.get('/trees/:id/live', (request, response) => {
    const tree = store.tree(request.params.id);
    if (tree === null) {
      notFound(response, 'This tree');
      return;
    }
    const state: LiveState = { base: `/live/${tree.id}`, token, requests: requests.of(tree.id) };
    response.json(state);
  });
  return router;
}
