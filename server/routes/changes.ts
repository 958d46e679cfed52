import { randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { type Request, type Response, Router } from 'express';
import type * as v from 'valibot';
import {
  ApplyPlanAsk,
  type ChangesPlanned,
  type DesignDatabases,
  type DriftEdits,
  KeepAnswers,
  LetGoAsk,
  NewDesignDatabase,
  PlanAsk,
  type PlanRehearsed,
  type PlanSettled,
  RehearsePlanAsk,
  SettlePlanAsk,
  type WorkStep,
} from '../../contract/index.js';
import { fileEngine } from '../../engines/index.js';
import type { Changes, Progress } from '../jobs/index.js';
import type { Store, StoredTree } from '../store/index.js';
import type { AskOptions } from '../workers/index.js';
import { bodyOf, notFound, sent } from './answers.js';

export interface ChangesRoutes {
  readonly store: Store;
  readonly changes: Changes;
  readonly progress: Progress;
  /** Where files are kept. */
  readonly folder: string;
}

/** The database that a request names, by what it is told apart by among those of its design. */
function databaseOf({ params }: Request): string {
  return String(params.database);
}

/** From design to database: the databases of a design, what would happen to each, and doing it. */
export function changesRoutes({ store, changes, progress, folder }: ChangesRoutes): Router {
  const router = Router();

  /** The tree that a request names, or null once it was told that there is none. */
  const treeOf = (request: Request, response: Response): StoredTree | null => {
    const tree = store.tree(String(request.params.id));
    if (tree === null) notFound(response, 'This tree');
    return tree;
  };

  /** Asks for long work, whose progress whoever waits for it can follow. */
  const working = async (
    request: Request,
    response: Response,
    ask: (options: AskOptions) => ReturnType<Changes['rehearse']>,
    refuse: (problem: string) => object,
  ): Promise<void> => {
    const work = progress.begin(typeof request.query.job === 'string' ? request.query.job : '');
    const step = (what: unknown) => {
      const { what: words, share } = what as WorkStep;
      work.step(words, share);
    };
    try {
      await sent(response, (signal) => ask({ signal, step }), refuse);
    } finally {
      work.done();
    }
  };

  const refused = (problem: string): PlanRehearsed => ({ kind: 'refused', problem });
  const unsettled = (problem: string): PlanSettled => ({ ok: false, problem });

  /** A route whose body is of a schema, and whose tree is there: it is told where one of the two is not. */
  const told =
    <Wanted>(
      schema: v.GenericSchema<unknown, Wanted>,
      does: (tree: StoredTree, wanted: Wanted, request: Request, response: Response) => Promise<void>,
    ) =>
    async (request: Request, response: Response): Promise<void> => {
      const wanted = bodyOf(schema, request, response);
      const tree = wanted === null ? null : treeOf(request, response);
      if (wanted !== null && tree !== null) await does(tree, wanted, request, response);
    };

  router.get('/trees/:id/databases', (request, response) => {
    const tree = treeOf(request, response);
    if (tree === null) return;
    const told: DesignDatabases = { databases: changes.of(tree), answers: store.designDatabases.answers(tree.id) };
    response.json(told);
  });

  router.post(
    '/trees/:id/databases',
    told(NewDesignDatabase, async (tree, wanted, _request, response) => {
      const added = await changes.add(tree, wanted);
      if ('problem' in added) response.status(422).json({ message: added.problem });
      else response.status(201).json(added);
    }),
  );

  router.delete('/trees/:id/databases/:database', (request, response) => {
    if (store.designDatabases.remove(request.params.id, request.params.database)) response.status(204).end();
    else notFound(response, 'This database');
  });

  router.put(
    '/trees/:id/answers',
    told(KeepAnswers, async (tree, wanted, _request, response) => {
      if (store.designDatabases.keepAnswers(tree.id, wanted.answers, wanted.instead)) response.json({ answers: wanted.answers });
      else
        response.status(409).json({
          message: 'The answers were changed in another window meanwhile. They are shown as they are now; say yours again.',
        });
    }),
  );

  router.get('/trees/:id/databases/:database', async (request, response) => {
    const tree = treeOf(request, response);
    if (tree !== null) response.json(await changes.stands(tree, request.params.database));
  });

  router.get('/trees/:id/databases/:database/file', async (request, response) => {
    const tree = treeOf(request, response);
    if (tree === null) return;
    const path = changes.fileOf(tree, request.params.database);
    const copy = join(folder, `${randomUUID()}.rows-out`);
    // A copy, so that it is whole whatever is written meanwhile.
    const copied = path === null ? null : await fileEngine.copy(path, copy, { label: tree.title });
    if (copied === null) notFound(response, 'A file of this database');
    else if (!copied.ok) response.status(422).json({ message: copied.problem.message });
    else {
      response.attachment(`${tree.title}.db`).type('application/octet-stream').set('cache-control', 'no-store');
      await pipeline(createReadStream(copy), response).catch(() => undefined);
    }
    await rm(copy, { force: true });
  });

  router.get('/trees/:id/databases/:database/drift', async (request, response) => {
    const tree = treeOf(request, response);
    if (tree === null) return;
    const { database } = request.params;
    await sent(
      response,
      () => changes.drift(tree, database),
      (problem): DriftEdits => ({ ok: false, problem }),
    );
  });

  router.post(
    '/trees/:id/databases/:database/plan',
    told(PlanAsk, (tree, wanted, request, response) =>
      working(
        request,
        response,
        (options) => changes.plan(tree, databaseOf(request), wanted, options),
        (problem): ChangesPlanned => ({ ok: false, problem }),
      ),
    ),
  );

  router.post(
    '/trees/:id/databases/:database/rehearsal',
    told(RehearsePlanAsk, (tree, wanted, request, response) =>
      working(request, response, (options) => changes.rehearse(tree, wanted, options), refused),
    ),
  );

  router.post(
    '/trees/:id/databases/:database/apply',
    told(ApplyPlanAsk, (tree, wanted, request, response) =>
      working(request, response, (options) => changes.apply(tree, databaseOf(request), wanted, options), refused),
    ),
  );

  router.post(
    '/trees/:id/databases/:database/settling',
    told(SettlePlanAsk, (tree, wanted, request, response) =>
      working(request, response, (options) => changes.settle(tree, databaseOf(request), wanted.way, options), unsettled),
    ),
  );

  router.post(
    '/trees/:id/databases/:database/letting-go',
    told(LetGoAsk, (tree, wanted, request, response) =>
      working(request, response, (options) => changes.letGo(tree, databaseOf(request), wanted.number, options), unsettled),
    ),
  );

  return router;
}
