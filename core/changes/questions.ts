import type { Check, ForeignKey } from '../schema/index.js';
import {
  allOf,
  call,
  column,
  derived,
  number,
  type Query,
  type SqlExpression,
  selectOf,
  type TableName,
  tableSource,
} from '../sql/index.js';
import { writtenPlace } from './answers.js';
import type { Difference, TableChange } from './compare.js';
import { typeOfColumn } from './conversion.js';
import type { Counted } from './count-rows.js';
import { lookAt, lookAtDoubles, ROWS, type SeenRow } from './look.js';
import { keyColumns } from './merging.js';
import { columnKey, type MaybeRenamed, tableKey } from './pairs.js';
import type { PlanWork } from './plan-work.js';
import { namesIn } from './renamed-schema.js';
import { rowsOf } from './rows-of.js';
import { isRequired, isThere, matchOf, shapesOf } from './shape.js';
import type { ShapedColumn, Shaping, TableShape } from './shaping.js';

/** Something that only a person can say. A plan with an open question is not carried out. */
export interface Question {
  readonly kind: 'former name' | 'empty' | 'unfit' | 'unmatched' | 'ambiguous' | 'check' | 'doubles' | 'pointing at nothing';
  /** The change that it is about. */
  readonly of: string;
  readonly table: TableName;
  readonly columns: readonly string[];
  readonly sentence: string;
  /** How many rows it is about; 0 where it is about names. */
  readonly rows: number;
  /** Values, or rows, that it is about, with how many have each. */
  readonly examples: readonly { readonly shown: string; readonly rows: number }[];
  /** Some of the rows that it is about, as they are; those that are alike stand together. */
  readonly look: readonly (readonly SeenRow[])[];
  /** What can be said, each as a line of answers, with what it does. */
  readonly ways: readonly { readonly line: string; readonly does: string }[];
}

/** How many different values of a question are shown. */
const SHOWN = 20;

/** What has to be asked before a plan can be carried out. */
export function* questionsOf(shaping: Shaping, difference: Difference, counted: Counted): PlanWork<readonly Question[]> {
  const questions: Question[] = shaping.paired.maybe.map((maybe) => nameQuestion(maybe));
  const shapes = shapesOf(shaping);
  const leaving = new Set(shapes.flatMap(({ pair, leftOut }) => (leftOut.length > 0 ? [tableKey(pair.after.name)] : [])));
  const leads = (key: ForeignKey) => leaving.has(tableKey({ schema: key.schema, name: key.table }));
  for (const shape of shapes) {
    const change = difference.changed.find(({ before }) => before === shape.pair.before);
    if (change === undefined) {
      for (const key of shape.pair.after.foreignKeys.filter(leads)) questions.push(...(yield* aboutKey(shaping, shape, key)));
      continue;
    }
    // What it was called decides what values it has.
    const unnamed = new Set(
      shaping.paired.maybe.flatMap(({ table, column: name }) => (table === change.after.name ? (name ?? []) : [])),
    );
    for (const one of shape.columns)
      if (!unnamed.has(one.column.name)) {
        questions.push(...(yield* aboutMatching(shaping, shape, one)));
        questions.push(...(yield* aboutColumn(shaping, shape, one, counted)));
      }
    const asked = new Set(questions.filter(({ table }) => table === change.after.name).flatMap(({ columns }) => columns));
    questions.push(...(yield* aboutConstraints(shaping, change, shape, { asked, leads })));
  }
  return questions;
}

function nameQuestion({ kind, table, column: name, candidates }: MaybeRenamed): Question {
  const place = writtenPlace(table, name);
  const said = candidates.map((one) => writtenPlace(one.table, one.column));
  const listed = said.length === 1 ? said[0] : `${said.slice(0, -1).join(', ')} or ${said.at(-1)}`;
  return {
    kind: 'former name',
    of: `${kind} ${place}`,
    table,
    columns: name === null ? [] : [name],
    sentence: `${place} is new, and ${listed} is in the database and not in the text. Is it the same under another name?`,
    rows: 0,
    examples: [],
    look: [],
    ways: [
      ...candidates.map((one) => {
        const former = kind === 'table' ? writtenPlace(one.table) : (one.column ?? '');
        const was = kind === 'table' ? former : writtenPlace({ schema: null, name: former });
        return { line: `${kind} ${place} was ${was}`, does: `it is ${former}, with its values` };
      }),
      {
        line: `${kind} ${place} is new`,
        does: kind === 'table' ? 'it is new, and begins empty' : 'it is new, and begins without its values',
      },
    ],
  };
}

function* aboutColumn(shaping: Shaping, shape: TableShape, one: ShapedColumn, counted: Counted): PlanWork<readonly Question[]> {
  const { answers } = shaping;
  const { pair } = shape;
  const { after } = pair;
  const key = columnKey(after.name, one.column.name);
  const own = counted.column(key);
  if (own === null) return [];
  const place = writtenPlace(after.name, one.column.name);
  const base = { of: `column ${place}`, table: after.name, columns: [one.column.name] };
  const questions: Question[] = [];
  const said = answers.emptied.has(key) || answers.leftOut.has(key);
  const required = isRequired(after, one.column.name);
  if (own.open > 0 && !(said && !required) && !answers.leftOut.has(key))
    questions.push({
      ...base,
      kind: 'unfit',
      sentence: `${many(own.open)} of ${writtenPlace(pair.before.name)} ${own.open === 1 ? 'has' : 'have'} a value that ${place}, as ${one.column.type.toLowerCase()}, does not take.`,
      rows: own.open,
      examples: yield* valuesOf(shaping, shape, one),
      look: [],
      ways: [
        ...(typeOfColumn(shaping.dialect, one.column).kind === 'text'
          ? [{ line: `cut ${place}`, does: 'each is cut to the length' }]
          : []),
        { line: `map ${place} '…' to '…'`, does: 'one value is put in the place of another' },
        { line: `value ${place} = …`, does: 'an expression gives the value' },
        ...(required ? [] : [{ line: `empty ${place}`, does: 'these rows have no value there' }]),
        { line: `leave out ${place}`, does: 'these rows go' },
      ],
    });
  const missing = own.empty - own.open;
  if (required && missing > 0 && !answers.leftOut.has(key))
    questions.push({
      ...base,
      kind: 'empty',
      sentence: `${place} is required, and ${many(missing)} of ${writtenPlace(pair.before.name)} would have no value there.`,
      rows: missing,
      examples: [],
      look: yield* lookAt(shaping, shape, [one.column.name], {
        kind: 'is null',
        operand: column(ROWS, one.column.name),
        negated: false,
      }),
      ways: [
        { line: `value ${place} = …`, does: 'an expression gives the value' },
        ...(after.foreignKeys.some(({ columns }) => columns.length === 1 && columns[0] === one.column.name)
          ? [{ line: `match ${place} by … = …`, does: 'a text of the row names the row that it points at' }]
          : []),
        { line: `leave out ${place}`, does: 'these rows go' },
      ],
    });
  return questions;
}

/** Texts that are to become keys, and name no row, or several. */
function* aboutMatching(shaping: Shaping, shape: TableShape, one: ShapedColumn): PlanWork<readonly Question[]> {
  const { before, after } = shape.pair;
  const place = writtenPlace(after.name, one.column.name);
  const matching = shaping.answers.matching.get(columnKey(after.name, one.column.name));
  const match = matching === undefined ? null : matchOf(shaping, shape.pair, one.column, matching);
  if (matching === undefined || match === null) return [];
  const found: Query = selectOf(tableSource(shaping.placed(match.parent.name), match.alias), {
    columns: [{ expression: { kind: 'count rows' }, as: null }],
    where: match.same,
  });
  const texts = selectOf(tableSource(shaping.placed(before.name), before.name.name), {
    columns: [
      { expression: match.by, as: 'shown' },
      { expression: { kind: 'scalar', select: found }, as: 'found' },
    ],
    where: { kind: 'is null', operand: match.by, negated: true },
  });
  const counted = function* (operator: '=' | '>', than: number): PlanWork<Question['examples']> {
    const query = selectOf(derived(texts, 'texts'), {
      columns: [
        { expression: column('texts', 'shown'), as: 'shown' },
        { expression: { kind: 'count rows' }, as: 'many' },
      ],
      where: { kind: 'binary', operator, left: column('texts', 'found'), right: number(than) },
      groupBy: [column('texts', 'shown')],
      orderBy: [{ expression: { kind: 'count rows' }, descending: true, nulls: false }],
    });
    const rows = yield shaping.dialect.printQuery(query);
    return rows.map(([shown, times]) => ({ shown: String(shown), rows: Number(times) }));
  };
  const base = { of: `column ${place}`, table: after.name, columns: [one.column.name] };
  const said = `match ${place} by ${matching.by} = ${matching.equals}`;
  const parent = writtenPlace(match.parent.name);
  const questions: Question[] = [];
  const unmatched = matching.unmatched === 'stop' ? yield* counted('=', 0) : [];
  const total = (of: Question['examples']) => of.reduce((sum, { rows }) => sum + rows, 0);
  if (unmatched.length > 0)
    questions.push({
      ...base,
      kind: 'unmatched',
      sentence: `${many(total(unmatched))} of ${writtenPlace(before.name)} name no row of ${parent}: ${unmatched.length} different ${unmatched.length === 1 ? 'text' : 'texts'}.`,
      rows: total(unmatched),
      examples: unmatched.slice(0, SHOWN),
      look: [],
      ways: [
        { line: `${said}, make the others`, does: `a row of ${parent} is made for each` },
        { line: `${said}, empty the others`, does: 'they point at nothing' },
      ],
    });
  const several = yield* counted('>', 1);
  if (several.length > 0)
    questions.push({
      ...base,
      kind: 'ambiguous',
      sentence: `${many(total(several))} of ${writtenPlace(before.name)} name more than one row of ${parent}.`,
      rows: total(several),
      examples: several.slice(0, SHOWN),
      look: [],
      ways: [
        { line: `match ${place} by … = …`, does: 'another condition, by which each finds one row' },
        { line: `keep ${parent} (${matching.equals}) by …`, does: `the rows of ${parent} that are alike become one` },
      ],
    });
  return questions;
}

function many(rows: number): string {
  return rows === 1 ? '1 row' : `${rows.toLocaleString('en')} rows`;
}

/** The different values that do not fit, the most frequent first. */
function* valuesOf(
  shaping: Shaping,
  { pair: { before }, joins }: TableShape,
  { pair, former, value }: ShapedColumn,
): PlanWork<Question['examples']> {
  if (former === null || pair.before === null) return [];
  const { dialect } = shaping;
  const text = dialect.values.asText(typeOfColumn(dialect, pair.before), former);
  const source = { from: { kind: 'table' as const, table: shaping.placed(before.name) }, alias: before.name.name };
  const query: Query = selectOf(source, {
    columns: [
      { expression: text, as: 'shown' },
      { expression: { kind: 'count rows' }, as: 'many' },
    ],
    where: allOf([
      { kind: 'is null', operand: former, negated: true },
      { kind: 'is null', operand: value, negated: false },
    ]),
    joins,
    groupBy: [text],
    orderBy: [{ expression: { kind: 'count rows' }, descending: true, nulls: false }],
    limit: number(SHOWN),
  });
  const rows = yield dialect.printQuery(query);
  return rows.map(([shown, times]) => ({ shown: String(shown), rows: Number(times) }));
}

/**
 * Constraints that the rows, as they will be, have to keep.
 *
 * @param asked columns whose values are not known yet, since a person is asked for them
 * @param leads whether a key points at a table of which rows are left out
 */
function* aboutConstraints(
  shaping: Shaping,
  change: TableChange,
  shape: TableShape,
  { asked, leads }: { readonly asked: ReadonlySet<string>; leads(key: ForeignKey): boolean },
): PlanWork<readonly Question[]> {
  const { after } = change;
  const touched = new Set(shape.columns.filter(({ carried }) => !carried).map(({ column: { name } }) => name));
  const speaks = (columns: readonly string[]) => columns.some((name) => touched.has(name));
  const questions: Question[] = [];
  const checks = after.checks.filter((check) => {
    const spoken = namesIn(check.expression);
    const isOf = ({ name }: { readonly name: string }) => spoken.has(name.toLowerCase());
    if (after.columns.some((one) => isOf(one) && asked.has(one.name))) return false;
    return change.checks.made.includes(check) || after.columns.some((one) => touched.has(one.name) && isOf(one));
  });
  for (const check of checks) questions.push(...(yield* aboutCheck(shaping, shape, check)));
  const uniques = [
    ...(change.primaryKey || speaks(after.primaryKey.columns) ? [after.primaryKey.columns] : []),
    ...after.uniques
      .filter((unique) => change.uniques.made.includes(unique) || speaks(unique.columns))
      .map(({ columns }) => columns),
    ...after.indexes
      .filter((index) => index.unique && index.sql === null && (change.indexes.made.includes(index) || speaks(index.columns)))
      .map(({ columns }) => columns),
  ].filter(
    (columns) =>
      columns.length > 0 &&
      !columns.some((name) => asked.has(name)) &&
      columns.every((name) => shape.columns.some(({ column: one }) => one.name === name)),
  );
  for (const columns of uniques) questions.push(...(yield* aboutUnique(shaping, shape, columns)));
  const keys = after.foreignKeys.filter(
    (key) =>
      !key.columns.some((name) => asked.has(name)) &&
      (change.foreignKeys.made.includes(key) || speaks(key.columns) || leads(key)),
  );
  for (const key of keys) questions.push(...(yield* aboutKey(shaping, shape, key)));
  return questions;
}

const TIMES = 'how_many_are_alike';

function countedRows(shaping: Shaping, shape: TableShape, only: readonly string[], where: SqlExpression): string {
  return shaping.dialect.printQuery(
    selectOf(derived(rowsOf(shaping, shape, only), ROWS), { columns: [{ expression: { kind: 'count rows' }, as: null }], where }),
  );
}

function* aboutCheck(shaping: Shaping, shape: TableShape, check: Check): PlanWork<readonly Question[]> {
  const { after } = shape.pair;
  const spoken = namesIn(check.expression);
  const only = after.columns.map(({ name }) => name).filter((name) => spoken.has(name.toLowerCase()));
  // A generated column has no value yet to hold against it.
  if (only.some((name) => !shape.columns.some(({ column: one }) => one.name === name))) return [];
  const broken: SqlExpression = { kind: 'not', operand: { kind: 'written', sql: `(${check.expression})` } };
  const [[found] = []] = yield countedRows(shaping, shape, only, broken);
  const rows = Number(found ?? 0);
  if (rows === 0) return [];
  const called = check.name ?? check.expression;
  return [
    {
      kind: 'check',
      of: `check ${writtenPlace(after.name, called)}`,
      table: after.name,
      columns: only,
      sentence: `${many(rows)} of ${writtenPlace(after.name)} would break the check ${called}: ${check.expression}`,
      rows,
      examples: [],
      look: yield* lookAt(shaping, shape, only, broken),
      ways: [
        ...only.map((name) => ({
          line: `map ${writtenPlace(after.name, name)} '…' to '…'`,
          does: 'one value is put in the place of another',
        })),
        ...(check.name === null ? [] : [{ line: `leave out ${writtenPlace(after.name, check.name)}`, does: 'these rows go' }]),
      ],
    },
  ];
}

function* aboutUnique(shaping: Shaping, shape: TableShape, columns: readonly string[]): PlanWork<readonly Question[]> {
  const { after } = shape.pair;
  const isFilled = columns.map((name): SqlExpression => ({ kind: 'is null', operand: column(ROWS, name), negated: true }));
  const groups = selectOf(derived(rowsOf(shaping, shape, columns), ROWS), {
    columns: [
      ...columns.map((name) => ({ expression: column(ROWS, name), as: name })),
      { expression: { kind: 'count rows' }, as: TIMES },
    ],
    where: allOf(isFilled),
    groupBy: columns.map((name) => column(ROWS, name)),
    having: { kind: 'binary', operator: '>', left: { kind: 'count rows' }, right: number(1) },
  });
  const query = selectOf(derived(groups, 'doubles'), {
    columns: [{ expression: call('sum', column('doubles', TIMES)), as: null }],
  });
  const [[found] = []] = yield shaping.dialect.printQuery(query);
  const rows = Number(found ?? 0);
  if (rows === 0) return [];
  const listed = columns.map((name) => writtenPlace({ schema: null, name })).join(', ');
  const canTell = keyColumns(shaping, shape.pair.before).length > 0;
  return [
    {
      kind: 'doubles',
      of: `unique ${writtenPlace(after.name, columns.join(', '))}`,
      table: after.name,
      columns,
      sentence: `${many(rows)} of ${writtenPlace(after.name)} are not alone with their ${listed}, which is to be unique.${canTell ? '' : ' They have no key by which one could be told from another: make them alone by hand first.'}`,
      rows,
      examples: [],
      look: yield* lookAtDoubles(shaping, shape, columns, groups),
      ways: canTell
        ? [{ line: `keep ${writtenPlace(after.name)} (${listed}) by … desc`, does: 'of each the first in this order stays' }]
        : [],
    },
  ];
}

function* aboutKey(shaping: Shaping, shape: TableShape, key: ForeignKey): PlanWork<readonly Question[]> {
  const { after } = shape.pair;
  if (key.columns.some((name) => !shape.columns.some(({ column: one }) => one.name === name))) return [];
  const values = key.columns.map((name) => column(ROWS, name));
  const there = isThere(shaping, key, values);
  if (there === null) return [];
  const isFilled = values.map((operand): SqlExpression => ({ kind: 'is null', operand, negated: true }));
  const where = allOf([...isFilled, { kind: 'not', operand: there }]);
  if (where === null) return [];
  const [[found] = []] = yield countedRows(shaping, shape, key.columns, where);
  const rows = Number(found ?? 0);
  if (rows === 0) return [];
  const listed = key.columns.join(', ');
  const place = writtenPlace(after.name, key.columns[0] ?? '');
  if (key.columns.some((name) => shaping.answers.leftOut.has(columnKey(after.name, name)))) {
    shaping.fault(
      `leave out ${place}: ${many(rows)} more point at rows that are left out, and so on in a circle. Empty the key, or make the rows fit in another way.`,
    );
    return [];
  }
  // A row that is left out is not made again.
  const target = shapesOf(shaping).find(
    ({ pair }) => tableKey(pair.after.name) === tableKey({ schema: key.schema, name: key.table }),
  );
  const canBeMade = key.columns.length === 1 && (target === undefined || target.leftOut.length === 0);
  if (canBeMade && shaping.answers.made.has(columnKey(after.name, key.columns[0] ?? ''))) return [];
  const optional = key.columns.every((name) => !isRequired(after, name));
  return [
    {
      kind: 'pointing at nothing',
      of: `foreign key ${writtenPlace(after.name, listed)}`,
      table: after.name,
      columns: key.columns,
      sentence: `${many(rows)} of ${writtenPlace(after.name)} point by ${listed} at a row of ${key.table} that is not there.`,
      rows,
      examples: [],
      look: yield* lookAt(shaping, shape, key.columns, where),
      ways: [
        ...(optional ? [{ line: `empty ${place}`, does: 'the key is emptied' }] : []),
        ...(canBeMade ? [{ line: `make ${place}`, does: `a row of ${key.table} is made for each` }] : []),
        { line: `leave out ${place}`, does: 'these rows go' },
      ],
    },
  ];
}
