import type { Column, Table } from '../schema/index.js';
import {
  allOf,
  column,
  columnsOf,
  equal,
  existsIn,
  type Join,
  type Select,
  type SqlExpression,
  selectOf,
  type TableName,
  tableSource,
} from '../sql/index.js';
import type { Aside, AsideColumn } from './aside.js';
import { restsOnEnumerated } from './enumerated.js';
import { tableKey } from './pairs.js';
import { staying, typed } from './rows-of.js';
import type { MadeRows, Shaping, TableShape } from './shaping.js';

const keyAt = (at: number): string => `key_${at + 1}`;

/** What a plan keeps aside, with the rows of each, while the former rows stand where they are said to. */
export function asidesOf(
  shaping: Shaping,
  shapes: readonly TableShape[],
  gone: readonly Table[],
  rowsMade: readonly MadeRows[],
  nameOf: (number: number) => string,
): readonly { readonly aside: Aside; readonly select: Select }[] {
  const made: { aside: Aside; select: Select }[] = [];
  const named = ({ schema }: TableName): TableName => ({ schema, name: nameOf(made.length + 1) });
  const wholeRows = (table: Table, where: SqlExpression | null, joins: readonly Join[] = []) => {
    const stored = table.columns.filter(({ generated }) => generated === null);
    const source = tableSource(shaping.placed(table.name), table.name.name);
    made.push({
      aside: { kind: 'rows', table: table.name, aside: named(table.name), columns: stored.map(({ name }) => name) },
      select: selectOf(source, {
        columns: stored.map((one) => ({ expression: asItWas(shaping, table, one), as: one.name })),
        joins,
        where,
      }),
    });
  };
  for (const shape of shapes) {
    const { before, after, columns } = shape.pair;
    const stays = staying(shape);
    if (stays !== null) wholeRows(before, { kind: 'not', operand: stays }, shape.joins);
    // A value that stands in the new column as it stood in the former is there to be converted back.
    const changed = shape.columns.filter(
      ({ former, carried, value }) => former !== null && !carried && JSON.stringify(value) !== JSON.stringify(former),
    );
    const lost = columns.flatMap((one) =>
      one.after === null && one.before !== null && one.before.generated === null ? [one.before] : [],
    );
    const key = after.primaryKey.columns.flatMap((name) => shape.columns.find((one) => one.column.name === name) ?? []);
    if (changed.length + lost.length === 0 || key.length === 0 || key.length < after.primaryKey.columns.length) continue;
    const kept: (AsideColumn & { readonly former: SqlExpression; readonly value: SqlExpression | null })[] = [
      ...lost.map((one, at) => ({
        was: one.name,
        kept: `was_${at + 1}`,
        became: null,
        former: asItWas(shaping, before, one),
        value: null,
      })),
      ...changed.map((one, at) => ({
        was: one.pair.before?.name ?? '',
        kept: `was_${lost.length + at + 1}`,
        became: `became_${lost.length + at + 1}`,
        former: one.pair.before === null ? { kind: 'null' as const } : asItWas(shaping, before, one.pair.before),
        value: typed(shaping.dialect, one),
      })),
    ];
    made.push({
      aside: {
        kind: 'values',
        table: after.name,
        aside: named(after.name),
        key: after.primaryKey.columns,
        columns: kept.map(({ was, kept: at, became }) => ({ was, kept: at, became })),
      },
      select: selectOf(tableSource(shaping.placed(before.name), before.name.name), {
        columns: [
          ...key.map((one, at) => ({ expression: typed(shaping.dialect, one), as: keyAt(at) })),
          ...kept.map((one) => ({ expression: one.former, as: one.kept })),
          ...kept.flatMap((one) =>
            one.value === null || one.became === null ? [] : [{ expression: one.value, as: one.became }],
          ),
        ],
        joins: shape.joins,
        where: stays,
      }),
    });
  }
  for (const table of gone) wholeRows(table, null);
  for (const { of, tableAfter, columnAfter, select } of rowsMade)
    made.push({ aside: { kind: 'made', table: tableAfter, aside: named(of.name), column: columnAfter }, select });
  return made;
}

/** A value that is kept; of a type that may go, as a text. */
function asItWas({ dialect, enumerated, named }: Shaping, table: Table, { name, type }: Column): SqlExpression {
  const value = column(table.name.name, named(table.name, name));
  return restsOnEnumerated(enumerated.before, type) ? dialect.conversions.text(value) : value;
}

/** By which columns rows that are kept aside are found. */
export function asideKey(aside: Aside): readonly string[] {
  return aside.kind === 'values' ? aside.key.map((_, at) => keyAt(at)) : [];
}

/**
 * The former value of a column, where one is kept aside: of a row that has since been given another value, that value, as it would
 * be converted back.
 *
 * @param converted what the present value is converted to; null where the column is not there
 */
export function restored(
  asides: readonly Aside[],
  { dialect, named }: Shaping,
  now: Table,
  column_: string,
  present: { readonly column: string; readonly value: SqlExpression; readonly converted: SqlExpression } | null,
): SqlExpression | null {
  for (const aside of asides) {
    if (aside.kind !== 'values' || tableKey(aside.table) !== tableKey(now.name)) continue;
    const kept = aside.columns.find(({ was }) => was === column_);
    if (kept === undefined) continue;
    const own = columnsOf(
      now.name.name,
      aside.key.map((name) => named(now.name, name)),
    );
    const same = equal(columnsOf(ASIDE, asideKey(aside)), own);
    const source = tableSource(aside.aside, ASIDE);
    const value: SqlExpression = {
      kind: 'scalar',
      select: selectOf(source, { columns: [{ expression: column(ASIDE, kept.kept), as: null }], where: same }),
    };
    if (kept.became === null || present === null) return value;
    const type = now.columns.find(({ name }) => name === present.column)?.type ?? '';
    // As texts, since not every type can be compared.
    const [became, is] = [column(ASIDE, kept.became), present.value].map((value) => dialect.exact.read(value, type));
    if (became === undefined || is === undefined) return value;
    const unchanged: SqlExpression = {
      kind: 'binary',
      operator: 'or',
      left: equal(became, is),
      right: allOf([isNull(column(ASIDE, kept.became)), isNull(present.value)]) ?? isNull(is),
    };
    const where = allOf([same, unchanged]) ?? same;
    return {
      kind: 'case',
      branches: [{ when: existsIn(aside.aside, where, { alias: ASIDE }), then: value }],
      otherwise: present.converted,
    };
  }
  return null;
}

/**
 * The rows that come back to a table, but for those whose key another row has since.
 *
 * @param at where the rows of the table stand that stay
 * @param written a value that was kept, as it is written into its column
 */
export function returningRows(
  asides: readonly Aside[],
  table: Table,
  {
    at = table.name,
    written = (_column, value) => value,
  }: { readonly at?: TableName; written?(column: Column, value: SqlExpression): SqlExpression } = {},
): readonly { readonly columns: readonly string[]; readonly select: Select }[] {
  return asides.flatMap((aside) => {
    if (aside.kind !== 'rows' || tableKey(aside.table) !== tableKey(table.name)) return [];
    const back = table.columns.filter(({ name, generated }) => generated === null && aside.columns.includes(name));
    const kept = (one: Column) => written(one, column(ASIDE, one.name));
    const key = table.primaryKey.columns;
    const keptKey = key
      .map((name) => back.find((one) => one.name === name))
      .map((one, place) => (one === undefined ? column(ASIDE, key[place] ?? '') : kept(one)));
    const taken = (): SqlExpression =>
      existsIn(
        at,
        equal(
          columnsOf(TAKEN, key),
          keptKey.length === 1 ? (keptKey[0] ?? column(ASIDE, '')) : { kind: 'tuple', items: keptKey },
        ),
        { alias: TAKEN },
      );
    return [
      {
        columns: back.map(({ name }) => name),
        select: selectOf(tableSource(aside.aside, ASIDE), {
          columns: back.map((one) => ({ expression: kept(one), as: one.name })),
          where: key.length === 0 ? null : { kind: 'not', operand: taken() },
        }),
      },
    ];
  });
}

function isNull(operand: SqlExpression): SqlExpression {
  return { kind: 'is null', operand, negated: false };
}

const ASIDE = 'kept_aside';
const TAKEN = 'taken';
