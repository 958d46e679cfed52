import { Router } from 'express';
import { type RowChoices, Run, type RunResult, type TreeEvent } from '../../contract/index.js';
import { parseParameters } from '../../core/notation/index.js';
import { type RunRequest, rowChoices, runQuery } from '../../services/index.js';
import type { BoundFiles, Databases, TreeEvents } from '../jobs/index.js';
import type { Store } from '../store/index.js';
import { bodyOf, notFound } from './answers.js';

const MOST_ROWS = 5000;

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

  router.post('/trees/:id/run', async (request, response) => {
    const wanted = bodyOf(Run, request, response);
    if (wanted === null) return;
    const tree = store.tree(request.params.id);
    if (tree === null) {
      notFound(response, 'This tree');
      return;
    }
    const database = await databases.ready(tree);
    if ('problem' in database) {
      response.json({ ok: false, findings: [], problems: [database.problem] } satisfies RunResult);
      return;
    }
    // Whoever asked may stop waiting; then the statement is stopped too.
    response.on('close', () => {
      if (!response.writableEnded) database.engine.stop();
    });
    const outcome = await runQuery(database.design, database.engine, {
      query: queryOf(wanted.query),
      parameters: wanted.parameters,
      sampleKeys: database.sampleKeys,
      madeHere: database.madeHere,
      rowLimit: MOST_ROWS,
    });
    const result: RunResult = outcome.ok
      ? {
          ok: true,
          ...outcome.answer,
          log: outcome.answer.log.map((entry) => ({ ...entry, parameters: [...entry.parameters], steps: [...entry.steps] })),
          cuts: [...outcome.answer.cuts],
          revision: database.revision,
        }
      : {
          ok: false,
          findings: outcome.findings.map(({ weight, code, message, span }) => ({ weight, code, message, span })),
          problems: [...outcome.problems],
        };
    response.json(result);
  });

  router.get('/trees/:id/choices/:entity', async (request, response) => {
    const tree = store.tree(request.params.id);
    const database = tree === null ? null : await databases.ready(tree);
    if (database === null || 'problem' in database || !database.design.model.entities.has(request.params.entity)) {
      response.json({ rows: [], more: false } satisfies RowChoices);
      return;
    }
    response.json(
      (await rowChoices(database.design, database.engine, request.params.entity, database.madeHere)) satisfies RowChoices,
    );
  });

  return router;
}

function queryOf(wanted: Run['query']): RunRequest['query'] {
  return wanted.kind === 'saved' ? wanted : { kind: 'text', text: wanted.text, parameters: parseParameters(wanted.head) ?? [] };
}
