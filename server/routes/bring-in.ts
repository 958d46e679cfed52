import { isAbsolute, join } from 'node:path';
import { type Request, type Response, Router } from 'express';
import {
  BringInAddress,
  BringInPath,
  type BroughtAgain,
  type BroughtInTree,
  SaveText,
  type WorkStep,
} from '../../contract/index.js';
import { removeAt } from '../../services/index.js';
import { type Databases, type Progress, type TreeEvents, Waiting } from '../jobs/index.js';
import { inUseOf, isForWantOfRoom, type KeptArrival, type Store, type StoredTree } from '../store/index.js';
import { WorkLost } from '../workers/index.js';
import { bodyOf, notFound } from './answers.js';
import { messageOf, titleIn } from './messages.js';
import { againFromServer, type BroughtDatabase, fromServer, type Places, Refused, uploaded, whereItLies } from './receive.js';

export interface BringInRoutes extends Places {
  readonly store: Store;
  readonly databases: Databases;
  readonly events: TreeEvents;
  readonly progress: Progress;
}

/** Bringing in a database that is a file or a SQL script, uploaded or where it lies, and bringing the same in again. */
export function bringInRoutes(routes: BringInRoutes): Router {
  const { store, databases, progress } = routes;
  const router = Router();

  router.post('/databases', async (request, response) => {
    const came = await receive(routes, request, response);
    if (came === null) return;
    const tree = store.add(came.brought.title, came.brought.text, 'brought in', came.database);
    store.setArrival(tree.id, arrivalOf(came), came.database);
    store.setDatabase(tree.id, came.place);
    const placed = store.tree(tree.id) ?? tree;
    store.forgetNote(came.database);
    databases.renew(placed);
    response.status(201).json({ tree: messageOf(placed), arrival: came.arrival } satisfies BroughtInTree);
  });

  router.get('/progress/:job', (request, response) => {
    response.set({ 'content-type': 'text/event-stream', 'cache-control': 'no-store' });
    response.flushHeaders();
    const unwatch = progress.watch(request.params.job, (step: WorkStep) => response.write(`data: ${JSON.stringify(step)}\n\n`));
    request.on('close', unwatch);
  });

  router.get('/trees/:id/arrival', (request, response) => {
    const kept = store.arrival(request.params.id);
    if (kept === null) notFound(response, 'How this tree came in');
    else response.json(kept.arrival);
  });

  router.use(againRoutes(routes));
  return router;
}

/** Brings in what the request sends or names; of what cannot be brought in the response says why, and null is given. */
async function receive(
  routes: BringInRoutes,
  request: Request,
  response: Response,
  again: StoredTree | null = null,
): Promise<BroughtDatabase | null> {
  const work = routes.progress.begin(typeof request.query.job === 'string' ? request.query.job : '');
  try {
    if (again !== null && inUseOf(again).kind === 'server') return await againFromServer(again, routes, work.step);
    if (request.is('application/json') === false) return await uploaded(request, routes, work.step);
    if (isAddressAsk(request.body)) {
      const wanted = bodyOf(BringInAddress, request, response);
      return wanted === null ? null : await fromServer(wanted, routes, work.step);
    }
    const wanted = bodyOf(BringInPath, request, response);
    return wanted === null ? null : await whereItLies(wanted.path, routes, work.step);
  } catch (error) {
    if (error instanceof WorkLost) response.status(422).json({ message: `It could not be brought in: ${error.message}.` });
    else if (error instanceof Refused) response.status(error.status).set('connection', 'close').json({ message: error.message });
    else if (isForWantOfRoom(error as NodeJS.ErrnoException))
      response.status(507).json({ message: 'The file does not fit on the disk of this machine.' });
    else if (!request.destroyed || !response.headersSent) throw error;
    return null;
  } finally {
    work.done();
  }
}

/** Bringing the database of a tree in again: first to see what would change in the text, then to take it in. */
function againRoutes(routes: BringInRoutes): Router {
  const { store, databases, events, folder } = routes;
  const router = Router();
  const pending = new Waiting<BroughtDatabase & { readonly tree: string }>();

  router.post('/trees/:id/again', async (request, response) => {
    const tree = store.tree(request.params.id);
    const kept = store.arrival(request.params.id);
    if (tree === null || kept === null) {
      notFound(response, 'This tree, or how it came in,');
      return;
    }
    const came = await receive(routes, request, response, tree);
    if (came === null) return;
    // The file may be another by now, under the same name.
    if (came.arrival.source.kind !== 'upload') await databases.reopen(tree);
    const { text, changes } = await routes.texts.does('bringAgain', [tree.text, kept.existing, came.brought.existing]);
    const { id, dropped } = pending.add({ ...came, tree: tree.id });
    for (const { database } of dropped) await forget(folder, database);
    const answer: BroughtAgain = { pending: id, basedOn: tree.revision, text, changes: changes.map((change) => ({ ...change })) };
    response.json(answer);
  });

  router.post('/trees/:id/again/:pending', async (request, response) => {
    const wanted = bodyOf(SaveText, request, response);
    if (wanted === null) return;
    const came = pending.of(request.params.id, request.params.pending);
    const before = store.tree(request.params.id);
    if (came === null || before === null) {
      notFound(response, 'What was brought in again');
      return;
    }
    const outcome = store.save(before.id, wanted.text, titleIn(wanted.text), wanted.basedOn);
    if (outcome.kind !== 'saved') {
      response.status(409).json({
        message: 'The text was changed in between. Bring the database in again, to see the changes to it as it is now.',
      });
      return;
    }
    pending.remove(request.params.pending);
    store.setArrival(before.id, arrivalOf(came), came.database);
    store.forgetNote(came.database);
    store.setDatabase(before.id, came.place);
    const saved = store.tree(before.id);
    if (saved === null) return;
    await databases.reopen(saved);
    if (before.database !== null && before.database !== came.database) await forget(folder, before.database);
    events.send(saved.id, { kind: 'text', revision: saved.revision, source: 'page' });
    response.json(messageOf(saved));
  });

  return router;
}

function isAddressAsk(body: unknown): boolean {
  return typeof body === 'object' && body !== null && 'address' in body;
}

function arrivalOf({ arrival, brought }: BroughtDatabase): KeptArrival {
  return { arrival, existing: brought.existing };
}

/** Removes a database of the data folder; a file that lies elsewhere is somebody else's. */
async function forget(folder: string, database: string): Promise<void> {
  if (!isAbsolute(database)) await removeAt(join(folder, database));
}
