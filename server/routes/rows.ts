import { type Request, type Response, Router } from 'express';
import {
  type Counts,
  CountsAsk,
  type EntityCounts,
  type KindsCompared,
  type Profile,
  type RowsAnswer,
  RowsAsk,
  type RowsChecked,
} from '../../contract/index.js';
import {
  checkRows,
  compareKinds,
  entityCounts,
  type KindsWay,
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
  const comparisons = new Comparisons();

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

  router.get('/trees/:id/rows/findings', async (request, response) => {
    const database = await databaseFor(request, response, (problem): RowsChecked => ({ ok: false, problem }));
    if (database === null) return;
    // Whoever asked may stop waiting; then nothing more is asked of the database.
    const asking = new AbortController();
    response.on('close', () => {
      if (response.writableEnded) return;
      asking.abort();
      database.engine.stop();
    });
    const { design, engine, sampleKeys, revision } = database;
    const checked = await checkRows(design, engine, { sampleKeys, signal: asking.signal });
    response.json({ ok: true, ...written(checked), revision } satisfies RowsChecked);
  });

  router.get('/trees/:id/entities/:entity/kinds', async (request, response) => {
    const database = await databaseFor(request, response, (problem) => ({ message: problem }));
    if (database === null) return;
    const { entity } = request.params;
    const kinds = database.design.model.entities.get(entity)?.kinds ?? null;
    if (kinds === null || kinds.base !== null) notFound(response, `A base called ${entity}`);
    else
      response.json({
        ways: (await comparisons.of(request.params.id, database, entity)).map(writtenWay),
      } satisfies KindsCompared);
  });

  return router;
}

/** Plain data, for the wire. */
function written({ findings, unanswered, ...rest }: Awaited<ReturnType<typeof checkRows>>) {
  return {
    ...rest,
    findings: findings.map((finding) => ({
      ...finding,
      examples: finding.examples.map(({ key, values }) => ({ key, values: [...values] })),
    })),
    unanswered: [...unanswered],
  };
}

/** Plain data of a way, for the wire. */
function writtenWay(way: KindsWay): KindsCompared['ways'][number] {
  return { ...way, asks: way.asks.map((ask) => ({ ...ask })), lost: [...way.lost] };
}

/** Comparisons that were made lately: each takes seconds, and is the same for the same text. One at a time is made. */
class Comparisons {
  private last: { readonly key: string; readonly made: Promise<readonly KindsWay[]> } | null = null;

  of(tree: string, { design, revision }: OpenDatabase, entity: string): Promise<readonly KindsWay[]> {
    const key = JSON.stringify([tree, revision, entity, design.text]);
    if (this.last?.key === key) return this.last.made;
    const before = this.last?.made.catch(() => null) ?? Promise.resolve(null);
    const made = before.then(() => compareKinds(design, entity));
    this.last = { key, made };
    made.catch(() => {
      if (this.last?.key === key) this.last = null;
    });
    return made;
  }
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
