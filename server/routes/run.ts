import { Router } from 'express';
import { CommandsAsk, ReadsAsk, type RowChoices, Run, type TreeEvent, WaysAsk } from '../../contract/index.js';
import type { BoundFiles, Databases, TreeEvents } from '../jobs/index.js';
import type { Store } from '../store/index.js';
import { answerOf, bodyOf, notFound } from './answers.js';

export interface RunRoutes {
  readonly store: Store;
  readonly databases: Databases;
  readonly files: BoundFiles;
  readonly events: TreeEvents;
}

/** Asking a tree's database: what happens to it, a query's answer, rows to choose from. */
export function runRoutes({ store, databases, files, events }: RunRoutes): Router {
  const router = Router();

  router.get('/trees/:id/events', (request, response) => {
    const tree = store.tree(request.params.id);
    if (tree === null) {
      notFound(response, 'This tree');
      return;
    }
    response.set({ 'content-type': 'text/event-stream', 'cache-control': 'no-store' });
    response.flushHeaders();
    const tell = (event: TreeEvent) => response.write(`data: ${JSON.stringify(event)}\n\n`);
    const unlisten = events.listen(tree.id, tell);
    // Whoever comes back after a while learns what was saved meanwhile.
    tell({ kind: 'text', revision: tree.revision, source: 'page' });
    const file = files.stateOf(tree.id);
    if (file !== null) tell({ kind: 'file', state: file });
    const unwatch = databases.watch(tree, (state) => tell({ kind: 'database', state }));
    const beat = setInterval(() => response.write(': \n\n'), 20_000);
    request.on('close', () => {
      clearInterval(beat);
      unlisten();
      unwatch();
    });
  });

  const asks = [
    ['run', Run],
    ['ways', WaysAsk],
    ['reads', ReadsAsk],
    ['rehearse', CommandsAsk],
  ] as const;
  for (const [ask, Asked] of asks)
    router.post(`/trees/:id/${ask}`, async (request, response) => {
      const wanted = bodyOf(Asked, request, response);
      if (wanted === null) return;
      const tree = store.tree(String(request.params.id));
      if (tree === null) {
        notFound(response, 'This tree');
        return;
      }
      const refuse = (problem: string) => ({ ok: false, findings: [], problems: [problem], reached: [], log: [] });
      await answerOf(databases, tree, ask, wanted, response, refuse);
    });

  router.get('/trees/:id/choices/:entity', async (request, response) => {
    const tree = store.tree(request.params.id);
    const none: RowChoices = { rows: [], more: false };
    if (tree === null) response.json(none);
    else await answerOf(databases, tree, 'choices', request.params.entity, response, () => none);
  });

  return router;
}
