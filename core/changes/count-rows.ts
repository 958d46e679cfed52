import type { Table } from '../schema/index.js';
import { call, column, type Query, type SqlExpression, selectOf, string, type TableName, tableSource } from '../sql/index.js';
import type { Change } from './changes.js';
import type { Difference } from './compare.js';
import { typeOfColumn } from './conversion.js';
import { columnKey, tableKey } from './pairs.js';
import type { PlanWork } from './plan-work.js';
import { staying } from './rows-of.js';
import { isRequired, shapesOf } from './shape.js';
import type { ShapedColumn, Shaping, TableShape } from './shaping.js';

/** The rows of a column that is given its values, by what becomes of them. */
export interface CountedColumn {
  /** Rows that stay and have no value there. */
  readonly empty: number;
  /** Rows whose former value the new column does not take as it is. */
  readonly unfit: number;
  /** Of those the rows for which nothing else was said. */
  readonly open: number;
  /** Rows whose former value a person gave another for. */
  readonly replaced: number;
  /** Rows whose value fits, and is left out all the same: a key that points at nothing. */
  readonly dropped: number;
}

/** What was counted of the rows, by table and column as they will be. */
export interface Counted {
  /** Rows of a table as it was. */
  rowsOf(table: string): number;
  /** Rows of it that are left out. */
  leftOut(table: string): number;
  column(key: string): CountedColumn | null;
  /** How many rows a change touches, and how many of them lose something. */
  of(change: Change): { readonly rows: number; readonly lost: number };
}

/** One thing that is counted, and where its count is put. */
interface Count {
  readonly expression: SqlExpression;
  put(count: number): void;
}

/** Counts, with one statement for each table that changes. */
export function* countRows(shaping: Shaping, difference: Difference): PlanWork<Counted> {
  const rows = new Map<string, number>();
  const leftOut = new Map<string, number>();
  const columns = new Map<string, CountedColumn>();
  const gone = new Map<string, number>();
  const shapes = shapesOf(shaping);
  for (const change of difference.changed) {
    const shape = shapes.find(({ pair }) => pair.before === change.before);
    if (shape === undefined) continue;
    const { before, after } = change;
    const key = tableKey(after.name);
    const counts: Count[] = [{ expression: { kind: 'count rows' }, put: (count) => rows.set(key, count) }];
    const stays = staying(shape);
    if (stays !== null) counts.push({ expression: counting(negated(stays)), put: (count) => leftOut.set(key, count) });
    for (const one of change.gone)
      counts.push({
        expression: call('count', column(before.name.name, shaping.named(before.name, one.name))),
        put: (count) => gone.set(columnKey(after.name, one.name), count),
      });
    for (const one of shape.columns) {
      if (one.carried && (one.pair.before?.notNull === true || !isRequired(after, one.column.name))) continue;
      const draft = { empty: 0, unfit: 0, open: 0, replaced: 0, dropped: 0 };
      columns.set(columnKey(after.name, one.column.name), draft);
      counts.push(...countsOf(shaping, shape, one, draft, stays));
    }
    const query = selectOf(tableSource(shaping.placed(before.name), before.name.name), {
      columns: counts.map(({ expression }) => ({ expression, as: null })),
      joins: shape.joins,
    });
    const [found = []] = yield shaping.dialect.printQuery(query);
    for (const [at, count] of counts.entries()) count.put(Number(found[at] ?? 0));
  }
  for (const table of difference.gone) {
    const query: Query = selectOf(tableSource(shaping.placed(table.name), table.name.name), {
      columns: [{ expression: { kind: 'count rows' }, as: null }],
    });
    const [found = []] = yield shaping.dialect.printQuery(query);
    rows.set(tableKey(table.name), Number(found[0] ?? 0));
  }
  return {
    rowsOf: (table) => rows.get(table) ?? 0,
    leftOut: (table) => leftOut.get(table) ?? 0,
    column: (key) => columns.get(key) ?? null,
    of: ({ table, subject, kind, name }) => {
      const all = table === null ? 0 : (rows.get(tableKey(table)) ?? 0);
      if (table === null || name === null) {
        if (subject === 'rows')
          return { rows: kind === 'new' ? 0 : all, lost: table === null ? 0 : (leftOut.get(tableKey(table)) ?? 0) };
        return { rows: subject === 'table' && kind === 'changed' ? 0 : all, lost: kind === 'gone' ? all : 0 };
      }
      if (subject !== 'column') {
        const lost = isSettled(shaping, { table, subject, name }) ? (leftOut.get(tableKey(table)) ?? 0) : 0;
        const keys = subject === 'foreign key' ? name.split(', ') : [];
        const dropped = keys.map((key) => columns.get(columnKey(table, key))?.dropped ?? 0);
        return { rows: subject === 'index' || subject === 'trigger' ? 0 : all, lost: lost + Math.max(0, ...dropped) };
      }
      const key = columnKey(table, name);
      if (kind === 'gone') return { rows: gone.get(key) ?? 0, lost: gone.get(key) ?? 0 };
      const own = columns.get(key);
      if (own === undefined) return { rows: 0, lost: 0 };
      const accepted = shaping.answers.emptied.has(key) ? own.unfit : own.unfit - own.open;
      const out = shaping.answers.leftOut.has(key) ? (leftOut.get(tableKey(table)) ?? 0) : 0;
      return { rows: kind === 'new' ? all - own.empty : all, lost: accepted + own.replaced + own.dropped + out };
    },
  };
}

/**
 * The tables of which rows would become otherwise, or go, among those whose columns all stay as they are: an answer that was carried
 * out once means nothing the next time.
 */
export function* tablesTouched(shaping: Shaping, tables: ReadonlySet<Table>): PlanWork<ReadonlySet<Table>> {
  const touched = new Set<Table>();
  if (tables.size === 0) return touched;
  for (const shape of shapesOf(shaping)) {
    const { before } = shape.pair;
    if (!tables.has(before)) continue;
    const stays = staying(shape);
    const differing = shape.columns.flatMap(({ carried, value, former }) =>
      carried || former === null ? [] : [isDistinct(value, former)],
    );
    const [first, ...rest] = [...(stays === null ? [] : [negated(stays)]), ...differing];
    if (first === undefined) continue;
    const where = rest.reduce<SqlExpression>((left, right) => ({ kind: 'binary', operator: 'or', left, right }), first);
    const query = selectOf(tableSource(shaping.placed(before.name), before.name.name), {
      columns: [{ expression: counting(where), as: null }],
      joins: shape.joins,
    });
    const [found = []] = yield shaping.dialect.printQuery(query);
    if (Number(found[0] ?? 0) > 0) touched.add(before);
  }
  return touched;
}

function isDistinct(value: SqlExpression, former: SqlExpression): SqlExpression {
  const same: SqlExpression = {
    kind: 'is true',
    operand: { kind: 'binary', operator: '=', left: value, right: former },
    negated: false,
  };
  const or = (left: SqlExpression, right: SqlExpression): SqlExpression => ({ kind: 'binary', operator: 'or', left, right });
  return negated(or(same, every(isNull(value), isNull(former))));
}

/** Whether rows go, as an answer says, for a constraint of their table to hold. */
function isSettled(
  { answers }: Shaping,
  { table, subject, name }: { readonly table: TableName; readonly subject: Change['subject']; readonly name: string },
): boolean {
  const keeps = answers.keeping.some((keeping) => tableKey(keeping.table) === tableKey(table));
  if (subject === 'unique' || subject === 'primary key') return keeps;
  const places = subject === 'foreign key' ? name.split(', ') : [name];
  return places.some((place) => answers.leftOut.has(columnKey(table, place)));
}

function countsOf(
  { dialect, answers }: Shaping,
  { pair }: TableShape,
  { column: after, pair: own, value, former, base }: ShapedColumn,
  draft: { -readonly [Count in keyof CountedColumn]: number },
  stays: SqlExpression | null,
): Count[] {
  const among = (...conditions: readonly SqlExpression[]) => counting(every(...conditions, ...(stays === null ? [] : [stays])));
  const counts: Count[] = [{ expression: among(isNull(value)), put: (count) => (draft.empty = count) }];
  if (former === null || own.before === null) return counts;
  counts.push(
    { expression: among(isFilled(former), isNull(base)), put: (count) => (draft.unfit = count) },
    { expression: among(isFilled(former), isNull(base), isNull(value)), put: (count) => (draft.open = count) },
    { expression: among(isFilled(base), isNull(value)), put: (count) => (draft.dropped = count) },
  );
  const mapped = answers.mapped.get(columnKey(pair.after.name, after.name));
  if (mapped !== undefined) {
    const text = dialect.values.asText(typeOfColumn(dialect, own.before), former);
    const items = mapped.map(({ from }) => string(from));
    counts.push({
      expression: among({ kind: 'in', operand: text, items, negated: false }, isFilled(base)),
      put: (count) => (draft.replaced = count),
    });
  }
  return counts;
}

/** How many rows there are for which a condition holds. */
function counting(when: SqlExpression): SqlExpression {
  const one: SqlExpression = { kind: 'number', text: '1' };
  return call('count', { kind: 'case', branches: [{ when, then: one }], otherwise: null });
}

function every(...conditions: readonly SqlExpression[]): SqlExpression {
  return conditions.reduce((left, right) => ({ kind: 'binary', operator: 'and', left, right }));
}

function isNull(operand: SqlExpression): SqlExpression {
  return { kind: 'is null', operand, negated: false };
}

function isFilled(operand: SqlExpression): SqlExpression {
  return { kind: 'is null', operand, negated: true };
}

function negated(operand: SqlExpression): SqlExpression {
  return { kind: 'not', operand };
}
