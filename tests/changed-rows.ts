import { type ChangePlan, type Question, tableKey, writtenPlace } from '../core/changes/index.js';
import { dialects } from '../core/dialects/index.js';
import { importEngines } from '../core/import/index.js';
import type { DialectName } from '../core/notation/index.js';
import type { Schema, Table } from '../core/schema/index.js';
import { typeName } from '../core/values/index.js';
import type { Engine } from '../engines/index.js';
import { rawRows } from '../engines/raw-rows.js';
import { answerFor } from './edited-tree.js';

/** Each row of a table, by its key, as texts from which its values can be made again. */
async function rowsOf(
  engine: Engine,
  { name, columns, primaryKey }: Table,
): Promise<ReadonlyMap<string, ReadonlyMap<string, unknown>>> {
  const { exact, print, quote } = dialects[engine.dialect];
  const values = columns.map(({ name: of, type }) => print(exact.read({ kind: 'column', source: null, column: of }, type)));
  const read = await rawRows(engine, `select ${values.join(', ')} from ${quote(name.name)}`);
  if (!read.ok) throw new Error(read.problem.message);
  const rows = read.value.map((row) => new Map(columns.map((column, at) => [column.name, row[at]])));
  // What has no key is told apart by all that it holds, and by how often that is there.
  const key = primaryKey.columns.length > 0 ? primaryKey.columns : columns.map((column) => column.name);
  const times = new Map<string, number>();
  return new Map(
    rows.map((row) => {
      const held = JSON.stringify(key.map((column) => row.get(column)));
      const time = times.get(held) ?? 0;
      times.set(held, time + 1);
      return [time === 0 ? held : `${held} ${time}`, row];
    }),
  );
}

/** The rows of each table of a schema, by their keys. */
export async function contentOf(
  engine: Engine,
  { tables }: Schema,
): Promise<ReadonlyMap<string, ReadonlyMap<string, ReadonlyMap<string, unknown>>>> {
  const content = new Map<string, ReadonlyMap<string, ReadonlyMap<string, unknown>>>();
  for (const table of tables) content.set(tableKey(table.name), await rowsOf(engine, table));
  return content;
}

/** A line that answers a question, by a number that stands for what a person would choose. */
export function answerTo({ kind, ways, table, columns }: Question, wished: Schema, dialect: DialectName, turn: number): string {
  const way = ways[turn % ways.length] ?? ways[0];
  if (way === undefined) throw new Error('a question has no answer');
  const own = wished.tables.find((one) => tableKey(one.name) === tableKey(table));
  const declared = own?.columns.find(({ name }) => name === columns[0])?.type ?? 'text';
  const type = importEngines[dialect].typeOf(declared);
  if (way.line.startsWith('map ') || (kind === 'check' && way.line.startsWith('value '))) return ways.at(-1)?.line ?? '';
  const key = own?.primaryKey.columns[0] ?? columns[0] ?? '';
  return way.line.startsWith('keep ')
    ? way.line.replace('… desc', `"${key}" desc`)
    : way.line.replace('…', answerFor(typeName(type)));
}

/** What of the rows is not where it should be. */
export function lost(
  plan: ChangePlan,
  answers: string,
  before: Awaited<ReturnType<typeof contentOf>>,
  after: Awaited<ReturnType<typeof contentOf>>,
): string[] {
  const problems: string[] = [];
  for (const pair of plan.paired.tables) {
    if (pair.before === null || pair.after === null) continue;
    const was = before.get(tableKey(pair.before.name));
    const is = after.get(tableKey(pair.after.name));
    const { name } = pair.after;
    // An answer about a column of another table of the same name excuses nothing here.
    const spoken = (of: string) => answers.includes(writtenPlace(name, of));
    const key = pair.columns.filter(({ before: own }) => own !== null && pair.before?.primaryKey.columns.includes(own.name));
    // A key that changes itself is told apart by nothing here.
    const merges =
      /^keep /m.test(answers) &&
      pair.before.foreignKeys.some(({ columns }) => columns.some((one) => pair.before?.primaryKey.columns.includes(one)));
    if (merges) continue;
    if (key.some(({ before: own, after: to }) => own?.type !== to?.type) || key.length !== pair.after.primaryKey.columns.length)
      continue;
    const left = /^(leave out|keep) /m.test(answers);
    if (!left && was?.size !== is?.size) problems.push(`${name.name}: ${was?.size} rows became ${is?.size}`);
    for (const [of, row] of was ?? []) {
      const now = is?.get(of);
      if (now === undefined) {
        if (!left) problems.push(`${name.name}${of} is gone`);
        continue;
      }
      for (const { before: own, after: to } of pair.columns) {
        if (own === null || to === null || own.type.toLowerCase() !== to.type.toLowerCase() || to.generated !== null) continue;
        if (row.get(own.name) === null || spoken(to.name)) continue;
        // A key of several columns is emptied whole.
        if (pair.after.foreignKeys.some(({ columns }) => columns.includes(to.name) && columns.some(spoken))) continue;
        const moved = pair.after.foreignKeys.some(({ columns }) => columns.includes(to.name)) && /^keep /m.test(answers);
        if (!moved && row.get(own.name) !== now.get(to.name))
          problems.push(`${name.name}${of}.${to.name}: ${String(row.get(own.name))} became ${String(now.get(to.name))}`);
      }
    }
  }
  return problems;
}
