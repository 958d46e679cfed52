import {
  type Applied,
  type ApplyProgress,
  type ApplyRequest,
  NO_ANSWERS,
  type Paired,
  scriptOfPlan,
} from '../core/changes/index.js';
import type { Design } from '../core/design/index.js';
import { dialects } from '../core/dialects/index.js';
import { type Table, withoutOwnTables } from '../core/schema/index.js';
import { column, type Query, selectOf, type TableName, tableSource } from '../core/sql/index.js';
import type { Engine, Outcome } from '../engines/index.js';
import { checkRows } from './check-rows.js';
import { applying, type PlannedDatabase, planUndo, scriptThatNotes } from './plan-database.js';
import type { ScratchDatabase } from './wished-schema.js';

/** A row before a plan and after it, as its values are written; null where it is not there. */
export interface RehearsedRow {
  readonly key: string;
  readonly before: Readonly<Record<string, unknown>>;
  readonly after: Readonly<Record<string, unknown>> | null;
}

/** A table in a rehearsal. */
export interface RehearsedTable {
  /** What it is called before, and after; null where it is not there. */
  readonly before: string | null;
  readonly after: string | null;
  readonly rowsBefore: number;
  readonly rowsAfter: number;
  /** The first of its rows that changed, side by side. */
  readonly changed: readonly RehearsedRow[];
}

/** What came of a plan on a copy of the rows. */
export interface Rehearsal {
  readonly applied: Applied;
  /** How long each statement took, in milliseconds. */
  readonly milliseconds: readonly number[];
  readonly tables: readonly RehearsedTable[];
  /** What rows then do not hold to, and no constraint keeps: rules, promises, keys that lead nowhere. */
  readonly unheld: readonly string[];
  /** What takes the plan back again; empty where that asks something first. */
  readonly back: ScriptBack;
}

/** What takes a plan back, as a script, and as one that notes itself in the history of the database. */
export interface ScriptBack {
  readonly plain: string;
  readonly noting: string;
}

const NO_SCRIPT: ScriptBack = { plain: '', noting: '' };

/** So many rows of each table are held side by side, and so many of those that differ are shown. */
const LOOKED_AT = 500;
const SHOWN = 3;

/** What no constraint keeps, and a plan could break. */
const HELD_BY_NONE = ['lost-key', 'broken-rule', 'unkept-promise', 'kind-row', 'unknown-mark'];

/**
 * Carries a plan out on a copy of the database: whether it comes through, how long each step takes, what the schema is read back as,
 * whether its keys hold, and what becomes of the rows. The database itself is only read.
 *
 * @param copy of the database, with all of its rows; it is taken away in the end
 */
export async function rehearsePlan(
  engine: Engine,
  copy: ScratchDatabase,
  { plan }: PlannedDatabase,
  request: ApplyRequest,
  options: {
    /** The design, for what its rows have to hold to; left out where the plan takes another back. */
    readonly design?: Design;
    /** Whether the copy was made by telling its tables again: then it is held against itself. */
    readonly retold?: boolean;
    readonly signal?: AbortSignal;
    readonly progress?: (done: ApplyProgress) => void;
  } = {},
): Promise<Outcome<Rehearsal>> {
  const { design, signal, progress, retold = false } = options;
  try {
    const seen = retold ? await copy.engine.introspect(request.schemas) : null;
    if (seen !== null && !seen.ok) return seen;
    const onCopy = seen === null ? request : { ...request, retold, seen: withoutOwnTables(seen.value.schema) };
    const applied = await copy.engine.apply(onCopy, {
      ...(signal === undefined ? {} : { signal }),
      progress: (done) => (done.kind === 'steps' ? progress?.(done) : undefined),
    });
    if (!applied.ok) return applied;
    const milliseconds = applied.value.kind === 'applied' ? applied.value.steps.map((step) => step.milliseconds) : [];
    if (applied.value.kind !== 'applied')
      return { ok: true, value: { applied: applied.value, milliseconds, tables: [], unheld: [], back: NO_SCRIPT } };
    const touched = new Set(plan.changes.flatMap(({ table }) => table?.name ?? []));
    const tables: RehearsedTable[] = [];
    for (const pair of plan.paired.tables) {
      const names = [pair.before, pair.after].flatMap((table) => table?.name.name ?? []);
      if (!names.some((name) => touched.has(name))) continue;
      const table = await rehearsedTable(engine, copy.engine, pair);
      if (!table.ok) return table;
      tables.push(table.value);
    }
    const checked = design === undefined ? null : await checkRows(design, copy.engine, { sampleKeys: {}, codes: HELD_BY_NONE });
    const unheld = checked === null ? [] : checked.findings.map(({ message }) => message);
    const { textBefore } = request.noted;
    const undo = await planUndo(copy.engine, {
      answers: NO_ANSWERS,
      now: request.noted.at,
      schemas: request.schemas,
      madeOf: textBefore,
    });
    const back = undo.ok && plan.operations.length > 0 ? backOf(copy.engine, undo.value, request) : NO_SCRIPT;
    return { ok: true, value: { applied: applied.value, milliseconds, tables, unheld, back } };
  } finally {
    await copy.remove();
  }
}

function backOf(engine: Engine, undo: PlannedDatabase, { schemas, noted: { name, at, textBefore } }: ApplyRequest): ScriptBack {
  const { noted } = applying(undo, { text: textBefore ?? '', name: `takes back ${name}`, now: at, schemas });
  return {
    plain: scriptOfPlan(dialects[engine.dialect], undo.plan.operations),
    noting: scriptThatNotes(engine, undo, noted),
  };
}

async function rehearsedTable(
  engine: Engine,
  copy: Engine,
  { before, after, columns }: Paired['tables'][number],
): Promise<Outcome<RehearsedTable>> {
  const rowsBefore = before === null ? { ok: true as const, value: 0 } : await countOf(engine, before.name);
  if (!rowsBefore.ok) return rowsBefore;
  const rowsAfter = after === null ? { ok: true as const, value: 0 } : await countOf(copy, after.name);
  if (!rowsAfter.ok) return rowsAfter;
  const told = {
    before: before?.name.name ?? null,
    after: after?.name.name ?? null,
    rowsBefore: rowsBefore.value,
    rowsAfter: rowsAfter.value,
  };
  const key = before?.primaryKey.columns.map((name) => columns.find((pair) => pair.before?.name === name)?.after?.name);
  if (before === null || after === null || key === undefined || key.length === 0 || key.includes(undefined))
    return { ok: true, value: { ...told, changed: [] } };
  const first = await firstRows(engine, before, before.primaryKey.columns);
  if (!first.ok) return first;
  const is = await firstRows(
    copy,
    after,
    key.flatMap((name) => name ?? []),
  );
  if (!is.ok) return is;
  const last = Array.from(is.value.keys()).at(-1);
  const changed: RehearsedRow[] = [];
  for (const [of, row] of first.value) {
    const now = is.value.get(of) ?? null;
    // Beyond the last that was looked at nothing is known of a row that is not among them.
    if (now === null && is.value.size === LOOKED_AT && of !== last) continue;
    // A column that is new, or gone, makes a row another one where it has a value.
    const same =
      now !== null &&
      columns.every((pair) => {
        const was = pair.before === null ? null : row[pair.before.name];
        return was === (pair.after === null ? null : now[pair.after.name]);
      });
    if (!same) changed.push({ key: of, before: row, after: now });
    if (changed.length === SHOWN) break;
  }
  return { ok: true, value: { ...told, changed } };
}

async function countOf(engine: Engine, table: TableName): Promise<Outcome<number>> {
  const query: Query = selectOf(tableSource(table), { columns: [{ expression: { kind: 'count rows' }, as: null }] });
  const rows = await engine.ask(dialects[engine.dialect].printQuery(query));
  return rows.ok ? { ok: true, value: Number(rows.value[0]?.[0] ?? 0) } : rows;
}

/** The first rows of a table by its key, each under the text of it. */
async function firstRows(
  engine: Engine,
  { name, columns }: Table,
  key: readonly string[],
): Promise<Outcome<ReadonlyMap<string, Readonly<Record<string, unknown>>>>> {
  const { printQuery, exact } = dialects[engine.dialect];
  const query: Query = selectOf(tableSource(name), {
    columns: columns.map(({ name: of, type }) => ({ expression: exact.read(column(name.name, of), type), as: of })),
    orderBy: key.map((of) => ({ expression: column(name.name, of), descending: false, nulls: false })),
    limit: { kind: 'number', text: String(LOOKED_AT) },
  });
  const rows = await engine.ask(printQuery(query));
  if (!rows.ok) return rows;
  const shown = (value: unknown, type: string) => (value === null ? null : exact.shown(String(value), type));
  const read = rows.value.map((row) => Object.fromEntries(columns.map((of, at) => [of.name, shown(row[at], of.type)])));
  return { ok: true, value: new Map(read.map((row) => [key.map((of) => String(row[of])).join(', '), row])) };
}
