import { type Expression, operandsOf } from '../model/index.js';
import type { BinaryOperator } from '../notation/index.js';
import type { Warning } from './warning.js';

const MIRRORED: Partial<Record<BinaryOperator, BinaryOperator>> = { '<': '>', '<=': '>=', '>': '<', '>=': '<=' };

/** Related rows are counted to know whether there is any: the first would do. */
export const countForExists: Warning = {
  code: 'count-for-exists',
  find: ({ query, text }) => {
    const conditions = [...query.where, ...query.loads.flatMap(({ where }) => (where === null ? [] : [where]))];
    return conditions.flatMap(countedInVain).map(({ expression, counted, quantifier }) => {
      const written = text.slice(expression.span.start, expression.span.end);
      const call = text.slice(counted.span.start, counted.span.end);
      const path = /^count\s*\(([\s\S]*)\)$/.exec(call)?.[1]?.trim() ?? null;
      const instead = path === null ? quantifier : `${quantifier}(${path})`;
      return {
        weight: 'warning' as const,
        code: countForExists.code,
        message: `${written.trim()}: all related rows are counted, and only whether there is any is asked. Write “${instead}”, which stops at the first.`,
        evidence: 'The statement counts them for each row.',
        span: expression.span,
        fix:
          path === null
            ? null
            : { of: 'query' as const, title: `Write ${instead}`, edits: [{ span: expression.span, text: instead }] },
      };
    });
  },
};

interface CountedInVain {
  readonly expression: Expression;
  /** The side of it that counts. */
  readonly counted: Expression;
  readonly quantifier: 'any' | 'none';
}

function countedInVain(expression: Expression): CountedInVain[] {
  if (expression.kind === 'named') return [];
  if (expression.kind === 'binary') {
    const { left, right, operator } = expression;
    const quantifier = isCount(left)
      ? asksFor(operator, right)
      : isCount(right)
        ? asksFor(MIRRORED[operator] ?? operator, left)
        : null;
    if (quantifier !== null) return [{ expression, counted: isCount(left) ? left : right, quantifier }];
  }
  return operandsOf(expression).flatMap(countedInVain);
}

function isCount(expression: Expression): boolean {
  return expression.kind === 'quantified' && expression.quantifier === 'count';
}

function asksFor(operator: BinaryOperator, than: Expression): 'any' | 'none' | null {
  const number = than.kind === 'value' ? Number(than.value) : Number.NaN;
  const asked = `${operator} ${number}`;
  if (asked === '> 0' || asked === '>= 1' || asked === '<> 0') return 'any';
  return asked === '= 0' || asked === '< 1' || asked === '<= 0' ? 'none' : null;
}
