import { type Expression, entityOf, type Model, queryOf, type StoredKey, storedTypes } from '../../model/index.js';
import {
  anyHolds,
  type PlannedExpression,
  type PlanOutput,
  planQuery,
  type QueryPlan,
  type StoredLook,
} from '../../plan/index.js';
import type { ValueType } from '../../values/index.js';
import type { Evidence, RowQuestion } from '../row-check.js';

/** How many rows are named. */
const EXAMPLES = 5;

/** The subject of a question, without its plan. */
export type About = Pick<RowQuestion, 'code' | 'weight' | 'span' | 'told'> & Partial<Pick<RowQuestion, 'screen'>>;

/** The rows of an entity for which a condition of the notation is true. */
export function rowsWith(
  model: Model,
  about: About,
  asked: { readonly entity: string; readonly where: Expression; readonly condition: string | null },
): RowQuestion {
  const { entity, condition } = asked;
  const where = [asked.where];
  const few: Expression = { kind: 'value', value: EXAMPLES, type: { kind: 'integer' }, span: about.span };
  return {
    screen: null,
    ...about,
    entity,
    condition,
    count: planQuery(model, queryOf(entity, { where, cardinality: 'count' })),
    examples: planQuery(model, queryOf(entity, { where, limit: few }), { output: 'keys' }),
    telling: [],
  };
}

/** How many rows of an entity any of several conditions of the notation is true for. */
export function anyRowWith(model: Model, entity: string, conditions: readonly Expression[]): QueryPlan | null {
  const [first, ...more] = conditions;
  if (first === undefined) return null;
  const any = more.reduce<Expression>(
    (left, right) => ({ kind: 'binary', operator: 'or', left, right, type: { kind: 'boolean' }, span: right.span }),
    first,
  );
  return planQuery(model, queryOf(entity, { where: [any], cardinality: 'count' }));
}

/** How many of some stored rows any of several conditions is true for. */
export function anyRowWhere(look: StoredLook, conditions: readonly PlannedExpression[]): QueryPlan {
  return look.plan(anyHolds(conditions), COUNT);
}

const COUNT: PlanOutput = { kind: 'count', of: null };

/** Stored rows that are looked for, and the columns that tell why one was found. */
export interface Sought {
  readonly look: StoredLook;
  readonly where: PlannedExpression | null;
  readonly telling: readonly Evidence[];
}

/** The rows of an entity, by its key, for which a condition on them as they are stored is true. */
export function rowsWhere(model: Model, about: About, found: Sought & { readonly entity: string }): RowQuestion {
  const { look, where, telling } = found;
  const { name, key } = entityOf(model, found.entity);
  return {
    screen: null,
    ...about,
    entity: name,
    condition: null,
    count: look.plan(where, COUNT),
    examples: look.plan(where, { kind: 'stored', columns: toldAs(telling), key: name }, key.columns, EXAMPLES),
    telling,
  };
}

/** Pairs of a pivot, or values, that are no rows of an entity. */
export function pairsWhere(about: About, { look, where, telling }: Sought): RowQuestion {
  const order = telling.map(({ column }) => column);
  return {
    screen: null,
    ...about,
    entity: null,
    condition: null,
    count: look.plan(where, COUNT),
    examples: look.plan(where, { kind: 'stored', columns: toldAs(telling), key: null }, order, EXAMPLES),
    telling,
  };
}

function toldAs(telling: readonly Evidence[]) {
  return telling.map((one, index) => ({ ...one, as: `told_${index + 1}` }));
}

/** The columns of keys, each once, as evidence: before the key that a mark tells of the mark. */
export function evidenceOf(model: Model, keys: readonly StoredKey[]): readonly Evidence[] {
  const all = keys.flatMap((key): Evidence[] => {
    const types = storedTypes(model, key);
    const columns = key.columns.map(({ value }, index) => ({ column: value, type: types[index] ?? TEXT }));
    return key.mark === null ? columns : [{ column: key.mark.column, type: TEXT }, ...columns];
  });
  return all.filter(({ column }, index) => all.findIndex((other) => other.column === column) === index);
}

const TEXT: ValueType = { kind: 'text', length: null };

/** `1 row`, `3 rows`. */
export function many(rows: number, one: string): string {
  return rows === 1 ? `1 ${one}` : `${rows.toLocaleString('en')} ${one}s`;
}
