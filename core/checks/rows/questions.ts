import { browse, keyOutputs } from '../../browse/index.js';
import { type Entity, type Expression, entityOf, type Model } from '../../model/index.js';
import { type Output, planQuery } from '../../plan/index.js';
import { counted, type Rows, select } from '../../profile/index.js';
import { anyOf, column, number, type Select, type SqlExpression } from '../../sql/index.js';
import type { ValueType } from '../../values/index.js';
import type { Asked, RowCheckContext, RowQuestion } from '../row-check.js';

/** How many rows are named. */
const EXAMPLES = 5;

const COUNT: Output = { as: 'count', type: { kind: 'integer' }, name: 'count', pivot: null, parts: null, kinds: null };

/** What a question is about, but for how it is asked. */
export type About = Pick<RowQuestion, 'code' | 'weight' | 'span' | 'told'> & Partial<Pick<RowQuestion, 'screen'>>;

/** A column that tells why a row was found. */
export interface Telling {
  readonly column: string;
  readonly type: ValueType;
}

/** The rows of an entity for which a condition of the notation is true. */
export function rowsWith(
  model: Model,
  { dialect }: RowCheckContext,
  about: About,
  asked: { readonly entity: string; readonly where: Expression; readonly condition: string | null },
): RowQuestion {
  const options = { dialect, keysHold: false };
  const where = [asked.where];
  const { keys } = browse(model, { entity: asked.entity, where, orderBy: [], via: null }, EXAMPLES - 1, options);
  const count = planQuery(model, { ...NOTHING, entity: asked.entity, where }, options);
  return {
    screen: null,
    ...about,
    entity: asked.entity,
    condition: asked.condition,
    count: { select: count.select, outputs: count.outputs, bindings: count.bindings },
    examples: { select: keys.select, outputs: keys.outputs, bindings: keys.plan.bindings },
  };
}

const NOTHING = {
  name: null,
  parameters: [],
  orderBy: [],
  limit: null,
  offset: null,
  loads: [],
  cardinality: 'count' as const,
  note: null,
  span: { start: 0, end: 0 },
};

/** How many rows of an entity any of several conditions of the notation is true for. */
export function anyRowWith(
  model: Model,
  { dialect }: RowCheckContext,
  entity: string,
  conditions: readonly Expression[],
): Asked | null {
  const [first, ...more] = conditions;
  if (first === undefined) return null;
  const any = more.reduce<Expression>(
    (left, right) => ({ kind: 'binary', operator: 'or', left, right, type: { kind: 'boolean' }, span: right.span }),
    first,
  );
  const {
    select: counts,
    outputs,
    bindings,
  } = planQuery(model, { ...NOTHING, entity, where: [any] }, { dialect, keysHold: false });
  return { select: counts, outputs, bindings };
}

/** How many of some rows any of several conditions of SQL is true for. */
export function anyRowWhere(rows: Rows, conditions: readonly SqlExpression[]): Asked {
  return { select: counted(rows, anyOf(conditions)), outputs: [COUNT], bindings: [] };
}

/** The rows of an entity, by its key, for which a condition of SQL is true. */
export function rowsWhere(
  model: Model,
  about: About,
  found: {
    readonly entity: string;
    readonly rows: Rows;
    readonly where: SqlExpression | null;
    readonly telling: readonly Telling[];
  },
): RowQuestion {
  const { rows, where } = found;
  const entity = entityOf(model, found.entity);
  const { names, outputs } = keyOutputs(entity, 'key');
  const key = entity.key.columns.map((name, index) => ({ expression: column(rows.alias, name), as: names[index] ?? name }));
  const told = telling(rows, found.telling);
  return {
    screen: null,
    ...about,
    entity: entity.name,
    condition: null,
    count: { select: counted(rows, where), outputs: [COUNT], bindings: [] },
    examples: {
      select: few(select(rows, [...told.columns, ...key], { where }), keyColumns(rows, entity)),
      outputs: [...told.outputs, ...outputs],
      bindings: [],
    },
  };
}

/** Pairs of a pivot, or values, that are no rows of an entity. */
export function pairsWhere(
  about: About,
  found: { readonly rows: Rows; readonly where: SqlExpression | null; readonly telling: readonly Telling[] },
): RowQuestion {
  const { rows, where } = found;
  const { columns, outputs } = telling(rows, found.telling);
  return {
    screen: null,
    ...about,
    entity: null,
    condition: null,
    count: { select: counted(rows, where), outputs: [COUNT], bindings: [] },
    examples: {
      select: few(
        select(rows, columns, { where }),
        found.telling.map((one) => column(rows.alias, one.column)),
      ),
      outputs,
      bindings: [],
    },
  };
}

function telling(rows: Rows, told: readonly Telling[]) {
  const named = told.map((one, index) => ({ ...one, as: `told_${index + 1}` }));
  return {
    columns: named.map((one) => ({ expression: column(rows.alias, one.column), as: one.as })),
    outputs: named.map(
      (one): Output => ({ as: one.as, type: one.type, name: one.column, pivot: null, parts: null, kinds: null }),
    ),
  };
}

function keyColumns(rows: Rows, { key }: Entity): SqlExpression[] {
  return key.columns.map((name) => column(rows.alias, name));
}

function few(all: Select, order: readonly SqlExpression[]): Select {
  const orderBy = order.map((expression) => ({ expression, descending: false, nulls: true }));
  return { ...all, orderBy, limit: number(EXAMPLES) };
}

/** `1 row`, `3 rows`. */
export function many(rows: number, one: string): string {
  return rows === 1 ? `1 ${one}` : `${rows.toLocaleString('en')} ${one}s`;
}
