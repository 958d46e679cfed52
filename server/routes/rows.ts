import { type Request, type Response, Router } from 'express';
import { type Counts, CountsAsk, type EntityCounts, type Profile, type RowsAnswer, RowsAsk } from '../../contract/index.js';
import {
  entityCounts,
  keyOf,
  profileRelation,
  type RowOrder,
  type RowsOutcome,
  roleCounts,
  rowOrder,
  rowWindow,
} from '../../services/index.js';
import type { Databases, OpenDatabase } from '../jobs/index.js';
import type { Store } from '../store/index.js';
import { bodyOf, notFound } from './answers.js';

const MOST_ORDERS = 12;

/** Looking through rows: windows of them, how many each knows, what a relation's rows say. */
export function rowRoutes({ store, databases }: { store: Store; databases: Databases }): Router {
  const router = Router();
  const orders = new Orders();

  const databaseFor = async (
    request: Request<{ id: string }>,
    response: Response,
    refuse: (problem: string) => object,
  ): Promise<OpenDatabase | null> => {
    const tree = store.tree(request.params.id);
    if (tree === null) {
      notFound(response, 'This tree');
      return null;
    }
    const database = await databases.ready(tree);
    if (!('problem' in database)) return database;
    response.json(refuse(database.problem));
    return null;
  };

  router.post('/trees/:id/rows', async (request, response) => {
    const wanted = bodyOf(RowsAsk, request, response);
    if (wanted === null) return;
    const refuse = (problem: string): RowsAnswer => ({ ok: false, findings: [], problems: [problem] });
    const database = await databaseFor(request, response, refuse);
    if (database === null) return;
    const { from, count, ...asked } = wanted;
    const key = JSON.stringify([request.params.id, database.revision, asked]);
    const order = await orders.get(key, () => rowOrder(database, asked));
    if (!order.ok) {
      response.json({ ok: false, findings: [...order.findings], problems: [...order.problems] } satisfies RowsAnswer);
      return;
    }
    const { keys, cut, sql, milliseconds } = order.value;
    const rows = await rowWindow(database, asked, keys.slice(from, from + count));
    const answer: RowsAnswer = rows.ok
      ? { ok: true, total: keys.length, cut, rows: [...rows.value], sql, milliseconds, revision: database.revision }
      : { ok: false, findings: [...rows.findings], problems: [...rows.problems] };
    response.json(answer);
  });

  router.post('/trees/:id/counts', async (request, response) => {
    const wanted = bodyOf(CountsAsk, request, response);
    if (wanted === null) return;
    const nothing: Counts = { counts: {} };
    const database = await databaseFor(request, response, () => nothing);
    if (database === null) return;
    const { model } = database.design;
    if (!model.entities.has(wanted.entity)) {
      response.json(nothing);
      return;
    }
    const keys = wanted.keys.map((key) => keyOf(database.design, wanted.entity, String(key)));
    const counts = await roleCounts(
      database,
      wanted.entity,
      keys.filter((key) => key !== null),
    );
    response.json({ counts: counts as Counts['counts'] });
  });

  router.get('/trees/:id/counts', async (request, response) => {
    const database = await databaseFor(request, response, (): EntityCounts => ({ rows: {} }));
    if (database !== null) response.json({ rows: await entityCounts(database) } satisfies EntityCounts);
  });

  router.get('/trees/:id/relations/:relation/rows', async (request, response) => {
    const database = await databaseFor(request, response, (problem): Profile => ({ ok: false, problem }));
    if (database === null) return;
    const outcome = await profileRelation(database.design, database.engine, request.params.relation);
    response.json(outcome.ok ? { ok: true, ...outcome.profile } : outcome);
  });

  return router;
}

/** Orders that were found lately, so that each window of a grid is fetched by keys alone. */
class Orders {
  private readonly known = new Map<string, Promise<RowsOutcome<RowOrder>>>();

  get(key: string, find: () => Promise<RowsOutcome<RowOrder>>): Promise<RowsOutcome<RowOrder>> {
    const there = this.known.get(key);
    if (there !== undefined) {
      this.known.delete(key);
      this.known.set(key, there);
      return there;
    }
    const found = find();
    this.known.set(key, found);
    // What failed may go well the next time.
    void found.then(
      (outcome) => outcome.ok || this.known.delete(key),
      () => this.known.delete(key),
    );
    const [oldest] = this.known.keys();
    if (this.known.size > MOST_ORDERS && oldest !== undefined) this.known.delete(oldest);
    return found;
  }
}
