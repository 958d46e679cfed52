import { entityOf, pivotOf } from '../../model/index.js';
import type { LoadPlan } from '../../plan/index.js';
import {
  column,
  derived,
  freeName,
  isSameColumn,
  itemsOf,
  number,
  type OrderTerm,
  type Select,
  type Source,
  type SqlExpression,
  selectOf,
  tupleOf,
} from '../../sql/index.js';
import type { ValueType } from '../../values/index.js';
import type { Columns } from './columns.js';
import type { CompiledStatement } from './compiled.js';
import type { Compiling, SourceRow } from './compiling.js';
import { compiled } from './expressions.js';
import { joinedOnce } from './joined-once.js';
import { orderTerms } from './order.js';
import { type LoadsCompiler, wayOf } from './owners.js';
import { pairOrder } from './pair-order.js';
import type { Sought } from './seek-step.js';
import { askedOnce } from './shared.js';

/** How rows are cut off before anything is joined to them. */
export type CutOff =
  | { readonly kind: 'window'; readonly limit: SqlExpression | null; readonly offset: SqlExpression | null }
  /** Not at all: they stand in a select of their own, for what is made of all of them. */
  | { readonly kind: 'apart' }
  /** By the place of each among those of its owner. */
  | { readonly kind: 'place'; readonly place: SqlExpression; readonly operator: '=' | '<='; readonly most: SqlExpression }
  /** By a limit for each of these owners, of which the rows speak. */
  | { readonly kind: 'each'; readonly owners: Source; readonly limit: SqlExpression };

export const APART: CutOff = { kind: 'apart' };

/** Rows of a statement, before what is loaded below them is known. */
export interface Rows {
  readonly row: SourceRow;
  readonly columns: Columns;
  readonly orderBy: readonly OrderTerm[];
  readonly cutOff: CutOff | null;
  /** They stand in every line of their statement. */
  readonly sure: boolean;
  /** They are those of owners that a limit chose. */
  readonly chosen: boolean;
  /** Adds the columns that tell rows of one key apart: whose they are, over which pair they were reached. */
  readonly identity: () => readonly string[];
}

/** A statement for rows in their order, cut off where they are, with what its loads join to them. */
export function statementFor(
  compiling: Compiling,
  rows: Rows,
  plans: readonly LoadPlan[],
  below: LoadsCompiler,
): CompiledStatement {
  const { row, columns, orderBy, cutOff, sure } = rows;
  const alias = cutOff === null ? null : row.builder.aliases.claim(cutOff.kind === 'window' ? 'chosen' : 'ranked');
  const {
    joined: asked,
    nested,
    loads,
  } = below(compiling, plans, {
    columns,
    sure,
    cutValuesOf: (expression) => cutValuesOf(rows, expression),
    outside: (expression, types) =>
      alias === null ? expression : tupleOf(columns.addKey(expression, types).map((as) => column(alias, as))),
  });
  const identity = asked.length === 0 ? [] : [...rows.identity(), ...columns.addIdentity()];
  const { limit, offset } =
    cutOff?.kind === 'window' ? cutOff : cutOff?.kind === 'each' ? { ...NO_WINDOW, limit: cutOff.limit } : NO_WINDOW;
  const plain = row.builder.build({ columns: columns.selected, orderBy, limit, offset });
  const joined = alias === null ? joinedOnce(compiling, plain.joins, asked) : asked;
  const joins = joined.flatMap((one) => one.joins);
  const common = {
    outputs: columns.outputs,
    kind: columns.kind,
    identity,
    ordered: orderBy.length > 0,
    joined: joined.map((one) => one.rows),
    nested,
    loads,
  };
  const all = [...columns.outputs, ...joined.flatMap((one) => one.outputs)];
  const stands = cutOff === null || cutOff.kind === 'window';
  if (joined.length === 0 && stands) return { ...common, select: askedOnce(plain), columns: all };
  const whole = alias === null ? plain : around(plain, alias, cutOff);
  const select: Select = {
    ...whole,
    columns: [...whole.columns, ...joined.flatMap((one) => one.columns)],
    joins: [...whole.joins, ...joins],
    orderBy: [...whole.orderBy, ...joined.flatMap((one) => one.orderBy)],
  };
  return { ...common, select, columns: all };
}

const NO_WINDOW = { limit: null, offset: null };

/** As many rows as an engine can count. */
const NO_LIMIT = number('18446744073709551615');

/**
 * What an expression comes to over rows that a limit cuts off, or that stand below such; null where none does. The limit stands in a select within, since
 * not every engine has one behind `in`, and keeps engines from taking the two apart (MariaDB 10.11 loses rows where it puts the
 * conditions of such a select into the one around it).
 */
function cutValuesOf({ row, orderBy, cutOff, chosen }: Rows, expression: SqlExpression): Select | null {
  const window = cutOff?.kind === 'window' ? cutOff : null;
  if (window === null && !chosen) return null;
  const { builder } = row;
  const columns = itemsOf(expression).map((item, part) => ({ expression: item, as: `part_${part + 1}` }));
  const { limit, offset } = window ?? { limit: NO_LIMIT, offset: null };
  const select = builder.build({ columns, orderBy: window === null ? [] : orderBy, limit, offset }, { lists: false });
  const alias = builder.aliases.claim('chosen');
  return selectOf(derived(select, alias), { columns: columns.map(({ as }) => ({ expression: column(alias, as), as: null })) });
}

/** A select around another, with the same columns in the same order. */
export function around(select: Select, alias: string, cutOff: CutOff | null): Select {
  const { columns, orderBy } = exposed(select, alias);
  const place = cutOff?.kind === 'place' ? cutOff : null;
  const as = freeName(select, 'place');
  const placed = place === null ? [] : [{ expression: place.place, as }];
  // Without a window the order within says nothing.
  const inner: Select = {
    ...select,
    columns: [...select.columns, ...columns, ...placed],
    orderBy: cutOff?.kind === 'window' || cutOff?.kind === 'each' ? select.orderBy : [],
  };
  const each = cutOff?.kind === 'each' ? cutOff.owners : null;
  const source = derived(inner, alias);
  return selectOf(each ?? source, {
    joins: each === null ? [] : [{ kind: 'each', source, on: { kind: 'boolean', value: true } }],
    columns: select.columns.map(({ as }) => ({ expression: column(alias, as ?? ''), as })),
    where: place === null ? null : { kind: 'binary', operator: place.operator, left: column(alias, as), right: place.most },
    orderBy,
  });
}

/** The terms of a select's order as a select around it says them, and the columns that it needs for that. */
export function exposed(select: Select, alias: string): { readonly columns: Select['columns']; readonly orderBy: OrderTerm[] } {
  const columns: { expression: SqlExpression; as: string }[] = [];
  const orderBy = select.orderBy.map((term, index): OrderTerm => {
    const known = select.columns.find((one) => isSameColumn(one.expression, term.expression));
    const as = known?.as ?? freeName(select, `order_${index + 1}`);
    if (known === undefined) columns.push({ expression: term.expression, as });
    return { ...term, expression: column(alias, as) };
  });
  return { columns, orderBy };
}

/** The rows of a load in their order (rows that have no number of their own get one in a select apart), each with what tells it apart where something is joined to it, or it to others. */
export function rowsOfLoad(
  compiling: Compiling,
  load: LoadPlan,
  sought: Sought,
  columns: Columns,
  { isJoined, limits }: { readonly isJoined: boolean; readonly limits: 'by place' | 'at once' | { readonly each: Source } },
): Rows {
  const { role, rows } = load;
  const { row, stitch, place } = sought;
  const orderBy =
    role.knows === 'many' ? [...orderTerms(compiling, row, load.order), ...pairOrder(compiling, role, row, rows)] : [];
  const numberOf = (): SqlExpression => ({ kind: 'row number', partition: itemsOf(stitch), orderBy });
  const limit = load.limit === null ? null : compiled(compiling, row, load.limit);
  const numbered = (isJoined || load.loads.some((one) => wayOf(compiling, one) === 'join')) && !tellsPairsApart(compiling, load);
  const cutOff: CutOff | null =
    limit !== null && limits === 'at once'
      ? { kind: 'window', limit, offset: null }
      : limit !== null && typeof limits === 'object'
        ? { kind: 'each', owners: limits.each, limit }
        : limit !== null
          ? { kind: 'place', place: numberOf(), operator: '<=', most: limit }
          : place !== null
            ? { kind: 'place', place, operator: '=', most: number(1) }
            : null;
  const identity = () => (numbered ? columns.addKey(numberOf(), [BIGINT]) : pairColumns(compiling, load, sought, columns));
  return { row, columns, orderBy, cutOff: cutOff ?? (numbered ? APART : null), sure: true, chosen: false, identity };
}

const BIGINT: ValueType = { kind: 'bigint' };

/** Whether pairs over which one row is reached several times have a key of their own. */
function tellsPairsApart({ model }: Compiling, { role }: LoadPlan): boolean {
  if (role.way.kind !== 'pivot') return true;
  const { repeats, withoutKey } = pivotOf(model, role.relation);
  return !repeats || !withoutKey;
}

function pairColumns(compiling: Compiling, { role, rows }: LoadPlan, { row }: Sought, columns: Columns): string[] {
  if (role.way.kind !== 'pivot') return [];
  const { entity } = pivotOf(compiling.model, role.relation);
  const types = entity === null ? [BIGINT] : entityOf(compiling.model, entity).key.fields.map(({ type }) => type);
  return pairOrder(compiling, role, row, rows).flatMap(({ expression }, index) => columns.addKey(expression, types.slice(index)));
}
