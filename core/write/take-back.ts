import { type DeleteGraph, PARENT } from '../cascades/index.js';
import type { Dialect } from '../dialects/index.js';
import { allOf, type Change, existsIn, placeOf, renamed, type SqlExpression, selectOf, tableSource } from '../sql/index.js';
import type { BoundValue } from '../values/index.js';
import { imageOf, type KeptRow, type KeptTable, type Undo, withKey } from './journal.js';
import type { CommandWork } from './steps.js';

/** What came of putting rows back: how many were, or why none was. */
export type TakenBack = { readonly ok: true; readonly rows: number } | { readonly ok: false; readonly problem: string };

/** Something that is left to be done, so that a row is as it was. */
interface Step {
  readonly row: KeptRow;
  readonly table: KeptTable;
  readonly kind: 'put in' | 'change' | 'remove';
}

/**
 * Puts rows back as they were before commands touched them: where they are still as those left them, and nobody else points at
 * what would go. Else nothing is done, and it is told which rows stand against it.
 */
export function* takeBack(dialect: Dialect, undo: Undo, graph: DeleteGraph): CommandWork<TakenBack> {
  if (undo.lacks.length > 0) return { ok: false, problem: `Not all of it can be put back: ${undo.lacks.join('; ')}.` };
  const changed: string[] = [];
  for (const row of undo.rows) {
    const table = undo.tables[row.at];
    if (table === undefined) continue;
    const now = yield* imageOf(dialect, table, row.key);
    if (JSON.stringify(now) !== JSON.stringify(row.after)) changed.push(nameOf(dialect, table, row));
  }
  if (changed.length > 0) return { ok: false, problem: `Others have changed these rows since: ${listed(changed)}.` };
  let left = stepsOf(undo);
  let why = '';
  // In which order they fit is the database's to say: each is tried until no more of them can be done.
  for (let done = true; done && left.length > 0; ) {
    done = false;
    const waiting: Step[] = [];
    for (const step of left) {
      const refusal = yield* tried(dialect, graph, step);
      if (refusal === null) done = true;
      else {
        waiting.push(step);
        why = refusal;
      }
    }
    left = waiting;
  }
  if (left.length === 0) return { ok: true, rows: undo.rows.length };
  const names = left.map(({ table, row }) => nameOf(dialect, table, row));
  return { ok: false, problem: `These rows cannot be put back as they were: ${listed(names)}. ${why}` };
}

const MOST_NAMED = 5;

function listed(names: readonly string[]): string {
  const shown = names.slice(0, MOST_NAMED).join(', ');
  return names.length > MOST_NAMED ? `${shown} and ${(names.length - MOST_NAMED).toLocaleString('en')} more` : shown;
}

function nameOf({ exact }: Dialect, { table, key, columns }: KeptTable, row: KeptRow): string {
  const parts = row.key.map((text, at) => exact.shown(text, columns.find(({ name }) => name === key[at])?.declared ?? ''));
  return `${table.name}(${parts.join(', ')})`;
}

/** What went is put in first, then what was changed is changed back, and what was made is removed. */
function stepsOf({ rows, tables }: Undo): Step[] {
  const of = (kind: Step['kind'], some: readonly KeptRow[]) =>
    some.flatMap((row): Step[] => {
      const table = tables[row.at];
      return table === undefined ? [] : [{ row, table, kind }];
    });
  return [
    ...of(
      'put in',
      rows.filter(({ after }) => after === null),
    ),
    ...of(
      'change',
      rows.filter(({ before, after }) => before !== null && after !== null),
    ),
    ...of(
      'remove',
      rows.filter(({ before }) => before === null),
    ),
  ];
}

/** Tries one step; why it cannot be done yet, or null where it is done. */
function* tried(dialect: Dialect, graph: DeleteGraph, step: Step): CommandWork<string | null> {
  const { table, row, kind } = step;
  if (kind === 'remove') {
    const pointing = yield* pointedAt(dialect, graph, table, row);
    if (pointing !== null) return `Rows of ${pointing} that others wrote point at ${nameOf(dialect, table, row)}.`;
    const { where, values } = withKey(dialect, table, row.key);
    return yield* sent(dialect, { kind: 'delete', from: table.table, where }, values);
  }
  const names = table.columns.map(({ name }) => name);
  if (kind === 'put in') {
    const { set, bound } = valuesOf(dialect, step, names);
    const columns = set.map((one) => one.column);
    return yield* sent(dialect, { kind: 'insert', into: table.table, columns, rows: [set.map((one) => one.value)] }, bound);
  }
  const { set, bound } = valuesOf(
    dialect,
    step,
    names.filter((name) => !table.key.includes(name)),
  );
  const { where, values } = withKey(dialect, table, row.key, bound.length);
  return yield* sent(dialect, { kind: 'update', table: table.table, set, where }, [...bound, ...values]);
}

/** The values that columns of a row had, and what is bound for them. */
function valuesOf(
  dialect: Dialect,
  { table, row }: Step,
  names: readonly string[],
): {
  readonly set: readonly { readonly column: string; readonly value: SqlExpression }[];
  readonly bound: readonly BoundValue[];
} {
  const bound: BoundValue[] = [];
  const set = names.map((name) => {
    const at = table.columns.findIndex((one) => one.name === name);
    const text = row.before?.[at] ?? null;
    if (text === null) return { column: name, value: { kind: 'null' } as const };
    const placeholder = { kind: 'placeholder', number: bound.length + 1 } as const;
    const { bound: value, as } = dialect.exact.write(text, table.columns[at]?.declared ?? '', placeholder);
    bound.push(value);
    return { column: name, value: as };
  });
  return { set, bound };
}

/** The table whose rows point at one that is to be removed, and would go or be emptied with it; null where there are none. */
function* pointedAt(dialect: Dialect, graph: DeleteGraph, table: KeptTable, row: KeptRow): CommandWork<string | null> {
  for (const edge of graph.edges) {
    if (placeOf(edge.parent) !== placeOf(table.table)) continue;
    if (
      edge.columns.join() === table.key.join() &&
      placeOf(edge.child) !== placeOf(table.table) &&
      isPart(graph, edge.child, table)
    )
      continue;
    const { where, values } = withKey(dialect, table, row.key);
    const on = edge.pairs.map(
      ({ held, key }): SqlExpression => ({
        kind: 'binary',
        operator: '=',
        left: renamed(held, null, CHILD),
        right: renamed(key, PARENT, table.table.name),
      }),
    );
    const points = allOf([...on, ...edge.where.map((one) => renamed(one, null, CHILD))]);
    const columns = [{ expression: { kind: 'number', text: '1' } as const, as: null }];
    const exists = existsIn(edge.child, points, { alias: CHILD });
    const select = selectOf(tableSource(table.table), { columns, where: allOf([where, exists]) });
    const answer = yield { kind: 'read', sql: dialect.printQuery(select), values };
    if (answer.kind === 'written' && answer.result.rows.length > 0) return edge.child.name;
  }
  return null;
}

const CHILD = 'pointing';

/** Whether a table holds a part of another's rows, under the same key: what goes with a row is no row of others. */
function isPart(graph: DeleteGraph, child: Parameters<typeof placeOf>[0], { key }: KeptTable): boolean {
  return (graph.keys[placeOf(child)] ?? []).join() === key.join();
}

function* sent(dialect: Dialect, change: Change, values: readonly BoundValue[]): CommandWork<string | null> {
  const answer = yield { kind: 'attempt', sql: dialect.printChange(change), values, gives: 'count' };
  if (answer.kind !== 'written') throw new Error('a change was answered as a question');
  return answer.result.refusal === null ? null : `The database says: ${answer.result.refusal.constraint}.`;
}
