import {
  type Applied,
  type ApplyAnswer,
  type ApplyRequest,
  type ApplyStep,
  type ApplyWork,
  applyPlan,
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
}

const NOTHING: ApplyAnswer = { rows: [], changed: 0, milliseconds: 0, schema: null };

/** Somebody waits for the plan no longer. */
class Stopped extends Error {}

/** Carries a plan out in one transaction: all of it, or nothing. */
export async function apply(
  { dialect, introspect, writing, applying }: ApplyingServer,
  connection: Connection,
  request: ApplyRequest,
  running: Running,
  { progress, isStopped }: Telling,
): Promise<Applied> {
  const step = async (asked: ApplyStep): Promise<ApplyAnswer> => {
    if (isStopped()) throw new Stopped('Stopped.');
    switch (asked.kind) {
      case 'schema':
        return { ...NOTHING, schema: (await introspect(connection, request.schemas)).schema };
      case 'read':
        return { ...NOTHING, rows: await connection.query(asked.sql) };
      case 'progress':
        progress({ kind: 'steps', ...asked.progress });
        return NOTHING;
      case 'define':
      case 'rows': {
        running(asked.sql);
        const started = performance.now();
        const changed = await changedBy(connection, writing, asked);
        return { ...NOTHING, changed, milliseconds: performance.now() - started };
      }
    }
  };
  try {
    for (const statement of applying.begin) await connection.query(statement);
    const applied = await driveLater(applyPlan(dialect, request, nothingDangles), step);
    await connection.query(applied.kind === 'applied' ? 'commit' : 'rollback');
    return applied;
  } catch (error) {
    await connection.query('rollback').catch(() => null);
    throw error;
  }
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
