import { type Entity, entityOf, type Model } from '../../model/index.js';
import { EMPTY, type Rows, select } from '../../profile/index.js';
import { allOf, column, number, type Select } from '../../sql/index.js';
import type { ValueType } from '../../values/index.js';
import type { RowQuestion } from '../row-check.js';
import { type About, pairsWhere, type Telling } from './questions.js';

const COUNT = { expression: { kind: 'count rows' as const }, as: 'times' };
const TIMES = { column: COUNT.as, type: { kind: 'integer' as const } };

/** Asks for values of some columns that stand in more than one row; such as have a null in them are all different. */
export function standingTwice(about: About, rows: Rows, wanted: readonly Telling[]): RowQuestion {
  const columns = wanted.map((one) => one.column);
  const filled = allOf(columns.map((name) => ({ kind: 'is null', operand: column(rows.alias, name), negated: true })));
  const grouped: Select = {
    ...select(rows, [...columns.map((name) => ({ expression: column(rows.alias, name), as: name })), COUNT], { where: filled }),
    groupBy: columns.map((name) => column(rows.alias, name)),
  };
  const alias = 'together';
  const together: Rows = { from: { kind: 'select', select: { ...EMPTY, ...grouped } }, alias, where: null };
  return pairsWhere(about, {
    rows: together,
    where: { kind: 'binary', operator: '>', left: column(alias, COUNT.as), right: number(1) },
    telling: [...wanted, TIMES],
  });
}

/** The type of a column of an entity: that of its field, or of the key that it holds. */
export function columnType(model: Model, { fields, key, roles, polymorphic }: Entity, name: string): ValueType {
  const field = [...fields, ...key.fields].find(({ column: own }) => own.value === name);
  if (field !== undefined) return field.type;
  for (const { way, target } of [...roles, ...polymorphic.flatMap(({ branches }) => branches)]) {
    if (way.kind !== 'key' || !way.columns.includes(name)) continue;
    return way.mark?.held ?? entityOf(model, target).key.fields[way.columns.indexOf(name)]?.type ?? TEXT;
  }
  return TEXT;
}

const TEXT: ValueType = { kind: 'text', length: null };
