import { type Expression, isPivot, type Model, someExpression } from '../../model/index.js';
import { isLongDecimal, typeName, type ValueType } from '../../values/index.js';
import type { DesignCheck } from '../check.js';

/**
 * A check that an engine could hold only roughly: its numbers are doubles of 15 digits, and what the program computes exactly
 * with is not there for those who write into the tables themselves.
 */
export const inexactCheck: DesignCheck = {
  code: 'inexact-check',
  find: (model, dialect) =>
    dialect.powers.exactNumbers
      ? []
      : checksOf(model).flatMap(({ label, name, expression }) => {
          const [fault] = faultsIn(expression).sort((a, b) => Number(b.never) - Number(a.never));
          if (fault === undefined) return [];
          const what = fault.never
            ? `which no table of ${dialect.title} can do`
            : `which a table of ${dialect.title} does to 15 digits only`;
          const way = fault.never
            ? 'Make it a rule, or compare without computing.'
            : 'Make it a rule where larger values are meant.';
          return [
            {
              weight: fault.never ? ('error' as const) : ('note' as const),
              code: inexactCheck.code,
              message: `${label}: check ${name} ${fault.does}, ${what}. ${way}`,
              span: expression.span,
              fixes: [],
            },
          ];
        }),
};

interface Fault {
  readonly does: string;
  /** Not even for small values. */
  readonly never: boolean;
}

function checksOf(model: Model) {
  const holders = [
    ...Array.from(model.entities.values(), ({ name, checks }) => ({ label: name, checks })),
    ...Array.from(model.relations.values(), (relation) => ({
      label: relation.name,
      checks: isPivot(relation) ? relation.checks : [],
    })),
  ];
  return holders.flatMap(({ label, checks }) => checks.map(({ name, expression }) => ({ label, name, expression })));
}

function faultsIn(expression: Expression): Fault[] {
  const faults: Fault[] = [];
  someExpression(expression, (part) => {
    const long = (side: Expression) => isValue(side.type) && isLongDecimal(side.type);
    if (part.kind === 'binary' && ['+', '-', '*', '%', '/'].includes(part.operator)) {
      const wide = [part.left, part.right].find(long);
      if (wide !== undefined) faults.push({ does: `computes with a ${told(wide)}`, never: true });
      else if (long(part)) faults.push({ does: `computes a ${told(part)}`, never: false });
    }
    if (part.kind === 'function' && ['round', 'least', 'greatest'].includes(part.name) && long(part))
      faults.push({ does: `takes ${part.name} of a ${told(part)}`, never: true });
    if (part.kind === 'binary' && part.operator === '||') {
      if ([part.left, part.right].some(({ type }) => type.kind === 'real'))
        faults.push({ does: 'joins a real into a text', never: true });
    }
    return false;
  });
  return faults;
}

function told({ type }: Expression): string {
  return isValue(type) ? typeName(type) : 'number';
}

function isValue(type: Expression['type']): type is ValueType {
  return type.kind !== 'row' && type.kind !== 'interval' && type.kind !== 'null';
}
