import type { Dialect } from '../dialects/index.js';
import { type Schema, withoutOwnTables } from '../schema/index.js';
import { changesOf } from './changes.js';
import { compare } from './compare.js';
import { type AppliedPlan, HISTORY_TABLE, type HistoryEntry, historyTable, noting, notingUndone } from './history.js';
import type { Operation } from './operation.js';
import { NO_FORMER_NAMES, pairUp, tableKey } from './pairs.js';

/** A plan to carry out on the database that it was made for. */
export interface ApplyRequest {
  readonly operations: readonly Operation[];
  /** Of a server: the schemas that are read; null for all. */
  readonly schemas: readonly string[] | null;
  /** All of the database, as the plan saw it. */
  readonly seen: Schema;
  /** What the tables that the text names have to be in the end. */
  readonly wished: Schema;
  /** Whether the tables of a copy were told again in the words of the engine, which writes down others then. */
  readonly retold?: boolean;
  readonly noted: AppliedPlan;
}

/** How far a plan is. */
export interface ApplyProgress {
  readonly done: number;
  readonly of: number;
  readonly what: string;
}

/** What became of a plan. Where it was not carried out nothing of it stays, unless it says so. */
export type Applied =
  | {
      readonly kind: 'applied';
      readonly number: number;
      /** How long each statement took, in milliseconds, and how many rows it wrote. */
      readonly steps: readonly { readonly milliseconds: number; readonly rows: number }[];
    }
  /** The database is not as the plan saw it any more: what differs, in sentences. */
  | { readonly kind: 'moved'; readonly differs: readonly string[] }
  /** The rows would point at nothing, by table. */
  | { readonly kind: 'dangling'; readonly tables: readonly string[] }
  /**
   * What came out is not what the design asks for: what differs. Then the plan is at fault. Where it could not be taken back with its
   * transaction it stays, under a number of the history.
   */
  | { readonly kind: 'unlike'; readonly differs: readonly string[]; readonly number: number | null }
  /** One that was begun before was left half done: it has to be finished first, or taken back. */
  | {
      readonly kind: 'left';
      readonly name: string;
      readonly done: number;
      readonly of: number;
      readonly canFinish: boolean;
      readonly canTakeBack: boolean;
    }
  /** One that was left half done was taken back. */
  | { readonly kind: 'taken back'; readonly name: string }
  /** None was left half done, and so there was nothing to finish or to take back. */
  | { readonly kind: 'nothing left' };

/** What an engine is asked while a plan is carried out. */
export type ApplyStep =
  | { readonly kind: 'define' | 'rows'; readonly sql: string; readonly values: readonly (string | number | null)[] }
  /** Statements that change rows, all of them or none; what is counted is of the first. */
  | {
      readonly kind: 'together';
      readonly statements: readonly { readonly sql: string; readonly values: readonly (string | number | null)[] }[];
    }
  | { readonly kind: 'read'; readonly sql: string }
  | { readonly kind: 'schema' }
  | { readonly kind: 'progress'; readonly progress: ApplyProgress };

/** What comes of a step. */
export interface ApplyAnswer {
  readonly rows: readonly (readonly unknown[])[];
  readonly changed: number;
  readonly milliseconds: number;
  readonly schema: Schema | null;
}

export type ApplyWork<Result> = Generator<ApplyStep, Result, ApplyAnswer>;

/**
 * Carries a plan out, step by step, within what the engine has of a transaction: looks first whether the database is still as the
 * plan saw it, and in the end whether it is what the design asks for, and notes it in the history.
 *
 * @param dangling counts the rows that point at nothing, where the engine did not look at them meanwhile
 */
export function* applyPlan(
  dialect: Dialect,
  { operations, seen, wished, noted, retold = false }: ApplyRequest,
  dangling: () => ApplyWork<ReadonlyMap<string, number>>,
): ApplyWork<Applied> {
  const differs = (one: Schema, other: Schema) =>
    retold ? differences(dialect, withoutTexts(one), withoutTexts(other)) : differences(dialect, one, other);
  const moved = differs(seen, yield* schemaNow());
  if (moved.length > 0) return { kind: 'moved', differs: moved };
  const danglingBefore = yield* dangling();
  yield { kind: 'define', sql: historyTable(dialect), values: [] };
  const steps: { milliseconds: number; rows: number }[] = [];
  for (const [at, { sql, kind, what }] of operations.entries()) {
    yield { kind: 'progress', progress: { done: at, of: operations.length, what } };
    const { changed, milliseconds } = yield kind === 'check' ? { kind: 'read', sql } : { kind, sql, values: [] };
    steps.push({ milliseconds, rows: kind === 'rows' ? changed : 0 });
  }
  const now = yield* dangling();
  const more = Array.from(now).filter(([table, rows]) => rows > (danglingBefore.get(table) ?? 0));
  if (more.length > 0) return { kind: 'dangling', tables: more.map(([table]) => table) };
  const unlike = differs(only(yield* schemaNow(), wished), wished);
  if (unlike.length > 0) return { kind: 'unlike', differs: unlike, number: null };
  const { rows: last } = yield { kind: 'read', sql: `select max(${dialect.quote('number')}) from ${HISTORY_TABLE}` };
  const number = Number(last[0]?.[0] ?? 0) + 1;
  const entry = notedAs(noted, number, steps);
  yield { kind: 'rows', ...noting(dialect, entry) };
  if (noted.undoes !== null) yield { kind: 'rows', ...notingUndone(dialect, noted.undoes) };
  return { kind: 'applied', number, steps };
}

/** All of the database as it is, without what is the program's own. */
export function* schemaNow(): ApplyWork<Schema> {
  const { schema } = yield { kind: 'schema' };
  if (schema === null) throw new Error('an engine that carries plans out reads its schema');
  return withoutOwnTables(schema);
}

/** What of a schema a plan is answerable for: what the other names too. */
export function only({ prelude, tables, others }: Schema, wished: Schema): Schema {
  const names = new Set(wished.tables.map(({ name }) => tableKey(name)));
  return {
    prelude: prelude.filter((sql) => wished.prelude.includes(sql)),
    tables: tables.filter(({ name }) => names.has(tableKey(name))),
    others: others.filter((sql) => wished.others.includes(sql)),
  };
}

/** A plan as it is noted in the history. */
export function notedAs(
  noted: AppliedPlan,
  number: number,
  steps: readonly { readonly milliseconds: number; readonly rows: number }[],
): HistoryEntry {
  const total = (of: 'milliseconds' | 'rows') => steps.reduce((sum, step) => sum + step[of], 0);
  return { ...noted, number, milliseconds: total('milliseconds'), rows: total('rows'), state: 'applied' };
}

/** Without what an engine writes down in words of its own, told them again: of a copy nothing else than those can differ by it. */
export function withoutTexts({ prelude, tables }: Schema): Schema {
  return {
    prelude,
    tables: tables.map((table) => ({
      ...table,
      columns: table.columns.map((column) => ({
        ...column,
        default: column.default === null ? null : '',
        generated: column.generated === null ? null : { ...column.generated, expression: '' },
      })),
      checks: table.checks.map((check) => ({ ...check, expression: check.name ?? '' })),
      indexes: table.indexes.map((index) => ({ ...index, sql: index.sql === null ? null : index.name })),
      constraints: [],
      triggers: [],
    })),
    others: [],
  };
}

/** How one schema differs from another, in sentences. */
export function differences(dialect: Dialect, before: Schema, after: Schema): readonly string[] {
  const paired = pairUp(before, after, NO_FORMER_NAMES, { mine: () => true, alike: () => false });
  return changesOf(compare(before, after, paired, dialect.quote)).map(({ sentence }) => sentence);
}
