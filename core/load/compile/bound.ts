import { type ExpressionType, entityOf } from '../../model/index.js';
import type { BoundConstant } from '../../schema/index.js';
import type { SqlExpression } from '../../sql/index.js';
import type { ValueType } from '../../values/index.js';
import type { Binding } from './compiled.js';
import type { Compiling } from './compiling.js';

/** A bound value; a composite key is bound as one list and taken apart where it is used. */
export function boundSql(compiling: Compiling, expression: BoundConstant): SqlExpression {
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

function bindingFor(compiling: Compiling, expression: BoundConstant): string {
  const { bindings } = compiling;
  const [wish, from] = sourceOf(expression);
  const known = Array.from(bindings.values()).find((binding) => JSON.stringify(binding.from) === JSON.stringify(from));
  if (known !== undefined) return known.name;
  const clean = wish.replace(/\W/g, '_').toLowerCase();
  let name = clean === 'keys' || clean === 'key' || clean === '' ? `value_${clean}` : clean;
  for (let count = 2; bindings.has(name); count++) name = `${clean}_${count}`;
  bindings.set(name, { name, from, type: boundType(compiling, expression.type) });
  return name;
}

/** The name that a constant wishes for, and how its value is come by. */
function sourceOf(expression: BoundConstant): [string, Binding['from']] {
  switch (expression.kind) {
    case 'clock':
      return [expression.which, { kind: 'clock', which: expression.which }];
    case 'parameter':
      return [expression.name, { kind: 'parameter', parameter: expression.name, type: expression.type, optional: false }];
    case 'me':
      return [expression.name, { kind: 'me', name: expression.name }];
    case 'sample row':
      return [`${expression.entity}_${expression.row}`, { kind: 'sample row', entity: expression.entity, row: expression.row }];
  }
}
