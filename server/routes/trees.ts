import { readFile } from 'node:fs/promises';
import { Router } from 'express';
import { NewTree, SaveText, ShelfTree, type TreeList } from '../../contract/index.js';
import { quoteText } from '../../core/notation/index.js';
import type { BoundFiles, Databases, TreeEvents } from '../jobs/index.js';
import type { Store } from '../store/index.js';
import { bodyOf, notFound } from './answers.js';
import { filesBelow } from './files.js';
import { messageOf, titleIn } from './messages.js';

export interface TreeRoutes {
  readonly store: Store;
  readonly databases: Databases;
  /** The file of the demo's text. */
  readonly demo: string;
  readonly uploadLimit: number;
  readonly files: BoundFiles;
  readonly events: TreeEvents;
  /** The folder below which `.kin` files may be opened. */
  readonly folder: string | null;
}

const EMPTY = (title: string) => `tree ${quoteText(title)}\n\nentity Branch\n  id    integer key\n  name  text(80)\n`;

/** Trees: the shelf, a new one, a tree's text and its revisions. */
export function treeRoutes({ store, databases, demo, uploadLimit, files, events, folder }: TreeRoutes): Router {
  const router = Router();

  router.get('/trees', async (_request, response) => {
    const summaries = store.summaries();
    const told = ({ id, title, kind, revision, savedAt, file }: (typeof summaries)[number]) => {
      return { id, title, kind, revision, savedAt, entities: store.entitiesOf(id, revision), file };
    };
    const trees = summaries.filter(({ takenOffAt }) => takenOffAt === null).map(told);
    const takenOff = summaries.filter(({ takenOffAt }) => takenOffAt !== null).map(told);
    const below = folder === null ? null : { path: folder, ...(await filesBelow(folder)) };
    const list: TreeList = { trees, takenOff, uploadLimit, folder: below };
    response.json(list);
  });

  router.post('/trees', async (request, response) => {
    const wanted = bodyOf(NewTree, request, response);
    if (wanted === null) return;
    const text =
      wanted.from === 'demo'
        ? await readFile(demo, 'utf8')
        : wanted.from === 'text'
          ? wanted.text
          : EMPTY(wanted.title ?? 'New tree');
    const added = store.add(titleIn(text), text, 'made', null);
    // Its rows are made while the page is on its way to it.
    databases.renew(added);
    response.status(201).json(messageOf(added));
  });

  router.get('/trees/:id', (request, response) => {
    const tree = store.tree(request.params.id);
    if (tree === null) notFound(response, 'This tree');
    else response.json(messageOf(tree));
  });

  router.patch('/trees/:id', (request, response) => {
    const wanted = bodyOf(ShelfTree, request, response);
    if (wanted === null) return;
    if (store.tree(request.params.id) === null) {
      notFound(response, 'This tree');
      return;
    }
    store.setTakenOff(request.params.id, wanted.takenOff);
    response.status(204).end();
  });

  router.put('/trees/:id/text', (request, response) => {
    const wanted = bodyOf(SaveText, request, response);
    if (wanted === null) return;
    const before = store.tree(request.params.id);
    // What was brought together with the file's text may be written over it, once that is a revision.
    const over = before?.file === null ? null : (wanted.overFile ?? null);
    const outcome = store.save(request.params.id, wanted.text, titleIn(wanted.text), wanted.basedOn, 'page', over);
    switch (outcome.kind) {
      case 'missing':
        notFound(response, 'This tree');
        break;
      case 'conflict':
        response.status(409).json({
          message: 'Somebody saved another text in between. Both are kept; choose which goes on.',
          revision: outcome.latest.revision,
          text: outcome.latest.text,
        });
        break;
      case 'saved': {
        response.json({ revision: outcome.revision });
        const saved = store.tree(request.params.id);
        if (saved === null) break;
        if (saved.revision !== before?.revision) {
          databases.renew(saved);
          events.send(saved.id, { kind: 'text', revision: saved.revision, source: 'page' });
        }
        void files.sync(saved.id);
      }
    }
  });

  router.get('/trees/:id/revisions', (request, response) => {
    response.json({ revisions: store.revisions(request.params.id) });
  });

  router.get('/trees/:id/revisions/:number', (request, response) => {
    const revision = store.revision(request.params.id, Number(request.params.number));
    if (revision === null) notFound(response, `Revision ${request.params.number}`);
    else response.json(revision);
  });

  return router;
}
