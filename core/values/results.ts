import { decimals } from './decimals.js';
import type { Aggregate } from './engine-values.js';
import type { ValueType } from './types.js';

/** Digits of a decimal that a double holds without loss. */
export const EXACT_DIGITS = 15;

/** The longest decimal that every engine computes with, and the most digits behind its point (MariaDB, DECIMAL). */
const MOST_DIGITS = 65;
const MOST_PLACES = 30;

/** Is this a decimal with more digits than a double holds? */
export function isLongDecimal(type: ValueType): boolean {
  return type.kind === 'decimal' && type.precision > EXACT_DIGITS;
}

/** The type of a result when two numbers meet: decimals keep their scales, a real makes a real (SQL:2016, 6.29). */
export function resultOf(operator: '+' | '-' | '*' | '/' | '%', left: ValueType, right: ValueType): ValueType {
  if (left.kind === 'real' || right.kind === 'real') return { kind: 'real' };
  if (left.kind !== 'decimal' && right.kind !== 'decimal')
    return left.kind === 'bigint' || right.kind === 'bigint' ? { kind: 'bigint' } : { kind: 'integer' };
  if (operator === '/') return { kind: 'real' };
  const [one, other] = [asDecimal(left), asDecimal(right)];
  if (operator === '*') return bounded(one.whole + other.whole, one.scale + other.scale);
  return bounded(Math.max(one.whole, other.whole) + (operator === '%' ? 0 : 1), Math.max(one.scale, other.scale));
}

/** The type in which numbers of several types are all told apart: the widest; null where they are no numbers. */
export function commonNumber(types: readonly ValueType[]): ValueType | null {
  if (types.some(({ kind }) => kind === 'real')) return { kind: 'real' };
  if (types.some(({ kind }) => kind !== 'integer' && kind !== 'bigint' && kind !== 'decimal')) return null;
  if (types.some(({ kind }) => kind === 'decimal')) {
    const all = types.map(asDecimal);
    return bounded(Math.max(...all.map(({ whole }) => whole)), Math.max(...all.map(({ scale }) => scale)));
  }
  return { kind: types.some(({ kind }) => kind === 'bigint') ? 'bigint' : 'integer' };
}

function asDecimal(type: ValueType): { readonly whole: number; readonly scale: number } {
  if (type.kind === 'decimal') return { whole: type.precision - type.scale, scale: type.scale };
  return { whole: type.kind === 'integer' ? 10 : 19, scale: 0 };
}

function bounded(whole: number, places: number): ValueType {
  const scale = Math.min(places, MOST_PLACES);
  return { kind: 'decimal', precision: Math.max(1, Math.min(MOST_DIGITS, whole + scale)), scale };
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
      // Ten digits more than a value has are enough for ten billion rows.
      if (type.kind === 'decimal') return { ...type, precision: Math.min(MOST_DIGITS, type.precision + 10) };
      return isNumber ? type : null;
  }
}

/** A decimal's text with exactly so many digits behind the point; half goes away from zero. */
export function scaled(text: string, scale: number): string {
  return decimals.scaled(text, scale) ?? text;
}
