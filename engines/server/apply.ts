import {
  type Applied,
  type ApplyAnswer,
  type ApplyRequest,
  type ApplyStep,
  type ApplyWork,
  applyPlan,
  applySequence,
  commitsDefinitions,
  type Settling,
  settle,
  takenBack,
} from '../../core/changes/index.js';
import type { Dialect } from '../../core/dialects/index.js';
import { driveLater } from '../driver.js';
import type { Introspection } from '../engine.js';
import type { Telling } from '../telling.js';
import type { Connection } from './connection.js';
import type { Running } from './running.js';
import type { WritingKind } from './writing.js';

/** What of a kind of server it takes to carry a plan out on it. */
export interface ApplyingServer {
  readonly dialect: Dialect;
  readonly writing: WritingKind;
  readonly applying: ApplyingKind;
  introspect(connection: Connection, schemas: readonly string[] | null): Promise<Introspection>;
}

/** How a kind of server carries a plan out. */
export interface ApplyingKind {
  /** Keeps others from it meanwhile, and begins what it has of a transaction. */
  readonly begin: readonly string[];
  /** Lets others in again, where that is not done by the end of a transaction. */
  readonly end: readonly string[];
}

const NOTHING: ApplyAnswer = { rows: [], changed: 0, milliseconds: 0, schema: null };

/** Somebody waits for the plan no longer. */
class Stopped extends Error {}

/**
 * Carries a plan out in one transaction, all of it or nothing; where the engine has none for definitions, step by noted step. Or
 * finishes one that was left half done, or takes it back.
 */
export async function apply(
  server: ApplyingServer,
  connection: Connection,
  request: ApplyRequest | Settling,
  running: Running,
  telling: Telling,
): Promise<Applied> {
  const { applying } = server;
  for (const statement of applying.begin) await connection.query(statement);
  try {
    return commitsDefinitions(server.dialect.name)
      ? await stepByStep(server, connection, request, running, telling)
      : await atOnce(server, connection, request, running, telling);
  } finally {
    for (const statement of applying.end) await connection.query(statement).catch(() => null);
  }
}

async function atOnce(
  server: ApplyingServer,
  connection: Connection,
  request: ApplyRequest | Settling,
  running: Running,
  telling: Telling,
): Promise<Applied> {
  const step = stepping(server, connection, typeof request === 'string' ? null : request.schemas, running, telling);
  try {
    // A transaction leaves nothing half done.
    const applied: Applied =
      typeof request === 'string'
        ? { kind: 'nothing left' }
        : await driveLater(applyPlan(server.dialect, request, nothingDangles), async (asked) => {
            if (telling.isStopped()) throw new Stopped('Stopped.');
            return step(asked);
          });
    await connection.query(applied.kind === 'applied' ? 'commit' : 'rollback');
    return applied;
  } catch (error) {
    await connection.query('rollback').catch(() => null);
    throw error;
  }
}

async function stepByStep(
  server: ApplyingServer,
  connection: Connection,
  request: ApplyRequest | Settling,
  running: Running,
  telling: Telling,
): Promise<Applied> {
  const step = stepping(server, connection, typeof request === 'string' ? null : request.schemas, running, telling);
  if (typeof request === 'string') return (await driveLater(settle(server.dialect, request), step)) ?? { kind: 'nothing left' };
  try {
    return await driveLater(applySequence(server.dialect, request), async (asked) => {
      // Once the new tables take their places, the plan is finished.
      const isStoppable =
        asked.kind === 'progress' && request.operations.slice(0, asked.progress.done + 1).every(({ back }) => back !== undefined);
      if (isStoppable && telling.isStopped()) throw new Stopped('Stopped.');
      return step(asked);
    });
  } catch (error) {
    await connection.query('rollback').catch(() => null);
    await driveLater(takenBack(), step).catch(() => false);
    throw error;
  }
}

/** Carries out each step of a plan on a connection. */
function stepping(
  { introspect, writing }: ApplyingServer,
  connection: Connection,
  schemas: readonly string[] | null,
  running: Running,
  { progress }: Telling,
): (asked: ApplyStep) => Promise<ApplyAnswer> {
  return async (asked) => {
    switch (asked.kind) {
      case 'schema':
        return { ...NOTHING, schema: (await introspect(connection, schemas)).schema };
      case 'read': {
        const started = performance.now();
        return { ...NOTHING, rows: await connection.query(asked.sql), milliseconds: performance.now() - started };
      }
      case 'progress':
        progress({ kind: 'steps', ...asked.progress });
        return NOTHING;
      case 'together': {
        const started = performance.now();
        const [first, ...more] = asked.statements;
        await connection.query('start transaction');
        running(first?.sql ?? '');
        const changed = first === undefined ? 0 : await changedBy(connection, writing, { kind: 'rows', ...first });
        for (const { sql, values } of more) await connection.query(sql, values);
        await connection.query('commit');
        return { ...NOTHING, changed, milliseconds: performance.now() - started };
      }
      case 'define':
      case 'rows': {
        running(asked.sql);
        const started = performance.now();
        const changed = await changedBy(connection, writing, asked);
        return { ...NOTHING, changed, milliseconds: performance.now() - started };
      }
    }
  };
}

async function changedBy(
  connection: Connection,
  writing: WritingKind,
  { kind, sql, values }: Extract<ApplyStep, { kind: 'define' | 'rows' }>,
): Promise<number> {
  if (kind === 'rows' && values.length === 0) return writing.changed(connection, { kind: 'write', sql, values });
  await connection.query(sql, values);
  return 0;
}

/** The engine itself looks at each key as it is put up. */
function* nothingDangles(): ApplyWork<ReadonlyMap<string, number>> {
  yield { kind: 'progress', progress: { done: 0, of: 1, what: 'looking at the database' } };
  return new Map();
}
