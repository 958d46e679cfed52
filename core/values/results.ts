import type { Aggregate } from './engine-values.js';
import type { ValueType } from './types.js';

/** Digits of a decimal that a double holds without loss. */
export const EXACT_DIGITS = 15;

/** The type of a result when two numbers meet: decimals keep their scales, a real makes a real. */
export function resultOf(operator: '+' | '-' | '*' | '/' | '%', left: ValueType, right: ValueType): ValueType {
  if (left.kind === 'real' || right.kind === 'real') return { kind: 'real' };
  if (left.kind === 'decimal' || right.kind === 'decimal') {
    if (operator === '/') return { kind: 'real' };
    const scales = [left, right].map((type) => (type.kind === 'decimal' ? type.scale : 0));
    const scale = operator === '*' ? (scales[0] ?? 0) + (scales[1] ?? 0) : Math.max(...scales);
    return { kind: 'decimal', precision: EXACT_DIGITS, scale: Math.min(scale, EXACT_DIGITS) };
  }
  return left.kind === 'bigint' || right.kind === 'bigint' ? { kind: 'bigint' } : { kind: 'integer' };
}

/** The type of an aggregate over values of a type; null where it has none. Nothing aggregated is null. */
export function aggregateType(name: Aggregate, type: ValueType): ValueType | null {
  const isNumber = ['integer', 'bigint', 'decimal', 'real'].includes(type.kind);
  switch (name) {
    case 'min':
    case 'max':
      return ['boolean', 'json', 'bytes', 'composite', 'sql'].includes(type.kind) ? null : type;
    case 'avg':
      return isNumber ? { kind: 'real' } : null;
    case 'sum':
      if (type.kind === 'integer') return { kind: 'bigint' };
      return isNumber ? type : null;
  }
}

/** A decimal's text with exactly so many digits behind the point; half goes away from zero. */
export function scaled(text: string, scale: number): string {
  const [, sign = '', whole = '0', fraction = ''] = /^(-?)(\d+)(?:\.(\d+))?$/.exec(text) ?? [];
  const kept = fraction.slice(0, scale).padEnd(scale, '0');
  let digits = `${whole}${kept}`;
  if ((fraction[scale] ?? '0') >= '5') digits = (BigInt(digits) + 1n).toString().padStart(digits.length, '0');
  const point = digits.length - scale;
  const written = `${digits.slice(0, point).replace(/^0+(?=\d)/, '')}${scale > 0 ? `.${digits.slice(point)}` : ''}`;
  return /[1-9]/.test(written) ? `${sign}${written}` : written;
}
