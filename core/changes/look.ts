import { call, column, columnsOf, derived, equal, number, type Query, type SqlExpression, selectOf } from '../sql/index.js';
import { writtenPick } from './answers.js';
import { typeOfColumn } from './conversion.js';
import { keyColumns } from './merging.js';
import type { PlanWork } from './plan-work.js';
import { rowsOf } from './rows-of.js';
import type { Shaping, TableShape } from './shaping.js';

/** A row that a question is about. */
export interface SeenRow {
  /** Its values as text, cut where they are long. */
  readonly values: readonly { readonly column: string; readonly shown: string | null }[];
  /** The line of answers that keeps it among those that it is alike with; null where nothing of that sort is asked. */
  readonly keep: string | null;
}

/** So many rows are shown of a question, so many columns of each, and so many characters of a value. */
const MOST_ROWS = 20;
const MOST_DOUBLES = 100;
const MOST_COLUMNS = 12;
const MOST_CHARACTERS = 120;

/** What the rows as they will be are called in a question, by its conditions and in a look at them. */
export const ROWS = 'rows_to_be';

/**
 * A look at rows as they are, of which a condition holds once they are what they will be.
 *
 * @param only the columns of the rows as they will be that the condition speaks of
 */
export function* lookAt(
  shaping: Shaping,
  shape: TableShape,
  only: readonly string[],
  where: SqlExpression,
): PlanWork<readonly (readonly SeenRow[])[]> {
  const { source, columns, keys } = rowsWithTheirOwn(shaping, shape, only);
  const found = yield shaping.dialect.printQuery(
    selectOf(source, {
      columns: columns.map(({ text, as }) => ({ expression: text, as })),
      where,
      orderBy: keys.map((expression) => ({ expression, descending: false, nulls: false })),
      limit: number(MOST_ROWS),
    }),
  );
  const rows = found.map((values) => ({ values: valuesOf(columns, values), keep: null }));
  return rows.length === 0 ? [] : [rows];
}

/** A look at rows that are alike in some columns, those that are alike together, each with the line that keeps it. */
export function* lookAtDoubles(
  shaping: Shaping,
  shape: TableShape,
  alike: readonly string[],
  groups: Query,
): PlanWork<readonly (readonly SeenRow[])[]> {
  const { before, after } = shape.pair;
  const { source, columns, keys } = rowsWithTheirOwn(shaping, shape, alike);
  const key = keyColumns(shaping, before);
  const keyTexts = key.map((name, at) => {
    const one = before.columns.find((known) => known.name === name);
    const type = one === undefined ? { kind: 'bigint' as const } : typeOfColumn(shaping.dialect, one);
    return { expression: shaping.dialect.values.toText(type, column(ROWS, keyOf(at))), as: `key_${at + 1}` };
  });
  const group = alike.map((name) => column(ROWS, name));
  const found = yield shaping.dialect.printQuery(
    selectOf(source, {
      columns: [
        {
          expression: {
            kind: 'row number',
            partition: group,
            orderBy: keys.map((expression) => ({ expression, descending: false, nulls: false })),
          },
          as: 'place',
        },
        ...keyTexts,
        ...columns.map(({ text, as }) => ({ expression: text, as })),
      ],
      joins: [
        { kind: 'inner', source: derived(groups, 'doubles'), on: equal(columnsOf(ROWS, alike), columnsOf('doubles', alike)) },
      ],
      orderBy: [...group, ...keys].map((expression) => ({ expression, descending: false, nulls: false })),
      limit: number(MOST_DOUBLES),
    }),
  );
  const together: SeenRow[][] = [];
  for (const [place, ...values] of found) {
    const row = {
      values: valuesOf(columns, values.slice(key.length)),
      keep: key.length === 0 ? null : writtenPick(after.name, alike, values.slice(0, key.length).map(String)),
    };
    if (Number(place) === 1) together.push([row]);
    else together.at(-1)?.push(row);
  }
  return together;
}

/** The rows as they will be in some columns, with their keys and values as they are beside. */
function rowsWithTheirOwn(shaping: Shaping, shape: TableShape, only: readonly string[]) {
  const { before } = shape.pair;
  const { dialect } = shaping;
  const own = (name: string) => column(before.name.name, shaping.named(before.name, name));
  const shown = before.columns.slice(0, MOST_COLUMNS);
  const key = keyColumns(shaping, before);
  const rows = rowsOf(shaping, shape, only);
  const all = {
    ...rows,
    columns: [
      ...rows.columns,
      ...key.map((name, at) => ({ expression: own(name), as: keyOf(at) })),
      ...shown.map(({ name }, at) => ({ expression: own(name), as: ownOf(at) })),
    ],
  };
  return {
    source: derived(all, ROWS),
    keys: key.map((_, at) => column(ROWS, keyOf(at))),
    columns: shown.map((one, at) => {
      const text = dialect.values.asText(typeOfColumn(dialect, one), column(ROWS, ownOf(at)));
      return { name: one.name, as: `shown_${at + 1}`, text: call('substr', text, number(1), number(MOST_CHARACTERS)) };
    }),
  };
}

function valuesOf(columns: readonly { readonly name: string }[], values: readonly unknown[]): SeenRow['values'] {
  return columns.map(({ name }, at) => {
    const value = values[at];
    return { column: name, shown: value === null || value === undefined ? null : String(value) };
  });
}

const keyOf = (at: number): string => `key_as_it_is_${at + 1}`;
const ownOf = (at: number): string => `as_it_is_${at + 1}`;
