import { Router } from 'express';
import { CommandsAsk, ReadsAsk, type RowChoices, Run, type TreeEvent, WaysAsk } from '../../contract/index.js';
import type { BoundFiles, Databases, TreeEvents } from '../jobs/index.js';
import type { Store } from '../store/index.js';
import { answerOf, asOf, bodyOf, notFound, sent } from './answers.js';

export interface RunRoutes {
  readonly store: Store;
  readonly databases: Databases;
  readonly files: BoundFiles;
  readonly events: TreeEvents;
}

/** The answer where there is no database to be asked. */
function refuseCommands(problem: string): object {
  return { ok: false, findings: [], problems: [problem], reached: [], log: [] };
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
      await answerOf(databases, tree, ask, wanted, response, refuseCommands);
    });

  router.post('/trees/:id/do', async (request, response) => {
    const wanted = bodyOf(CommandsAsk, request, response);
    if (wanted === null) return;
    const tree = store.tree(String(request.params.id));
    if (tree === null) notFound(response, 'This tree');
    else await sent(response, (signal) => databases.carryOut(tree, wanted, signal), refuseCommands);
  });

  router.delete('/trees/:id/written/:commands', async (request, response) => {
    const tree = store.tree(request.params.id);
    if (tree === null) {
      notFound(response, 'This tree');
      return;
    }
    const message = await databases.takeBack(tree, Number(request.params.commands));
    if (message === null) response.status(204).end();
    else response.status(409).json({ message });
  });

  router.get('/trees/:id/choices/:entity', async (request, response) => {
    const tree = store.tree(request.params.id);
    const none: RowChoices = { rows: [], more: false };
    if (tree === null) response.json(none);
    else {
      const { sought } = request.query;
      const wanted = {
        entity: request.params.entity,
        sought: typeof sought === 'string' ? sought.slice(0, 200) : '',
        ...asOf(request),
      };
      await answerOf(databases, tree, 'choices', wanted, response, () => none);
    }
  });

  return router;
}
