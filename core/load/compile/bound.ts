import { type Constant, type ExpressionType, entityOf } from '../../model/index.js';
import type { SqlExpression } from '../../sql/index.js';
import type { ValueType } from '../../values/index.js';
import type { Binding } from './compiled.js';
import type { Compiling } from './compiling.js';

/** A bound value; a composite key is bound as one list and taken apart where it is used. */
export function boundSql(
  compiling: Compiling,
  expression: Extract<Constant, { kind: 'parameter' | 'clock' | 'sample row' }>,
): SqlExpression {
  const name = bindingFor(compiling, expression);
  const type = expression.type.kind === 'row' ? entityOf(compiling.model, expression.type.entity).key.type : null;
  const { values } = compiling;
  if (type?.kind === 'composite') {
    const items = type.parts.map((inner, part): SqlExpression => {
      return { kind: 'key part', parameter: name, part, type: values.listType(inner) };
    });
    return { kind: 'tuple', items };
  }
  return { kind: 'parameter', name, type: values.parameterType(boundType(compiling, expression.type)) };
}

/** The type under which a value is bound: for a row, that of its key. */
function boundType({ model }: Compiling, type: ExpressionType): ValueType {
  if (type.kind === 'row') return entityOf(model, type.entity).key.type;
  return type.kind === 'interval' || type.kind === 'null' ? { kind: 'text', length: null } : type;
}

function bindingFor(compiling: Compiling, expression: Extract<Constant, { kind: 'parameter' | 'clock' | 'sample row' }>): string {
  const { bindings } = compiling;
  const [wish, from]: [string, Binding['from']] =
    expression.kind === 'clock'
      ? [expression.which, { kind: 'clock', which: expression.which }]
      : expression.kind === 'parameter'
        ? [expression.name, { kind: 'parameter', parameter: expression.name, type: expression.type, optional: false }]
        : [`${expression.entity}_${expression.row}`, { kind: 'sample row', entity: expression.entity, row: expression.row }];
  const known = Array.from(bindings.values()).find((binding) => JSON.stringify(binding.from) === JSON.stringify(from));
  if (known !== undefined) return known.name;
  const clean = wish.replace(/\W/g, '_').toLowerCase();
  let name = clean === 'keys' || clean === 'key' || clean === '' ? `value_${clean}` : clean;
  for (let count = 2; bindings.has(name); count++) name = `${clean}_${count}`;
  bindings.set(name, { name, from, type: boundType(compiling, expression.type) });
  return name;
}
