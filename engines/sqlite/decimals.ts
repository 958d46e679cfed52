import type Database from 'better-sqlite3';
import { decimals } from '../../core/values/index.js';

type Value = unknown;

/** The text of a number as it is stored; null for what is no number. */
function text(value: Value): string | null {
  return typeof value === 'string' || typeof value === 'number' || typeof value === 'bigint' ? String(value) : null;
}

/**
 * Brings exact decimals, and the text of a double, into a connection: SQLite itself computes with doubles, which hold 15
 * digits. What its own shell has too bears the names that it has there
 * (https://www.sqlite.org/floatingpoint.html#the_decimal_c_extension).
 */
export function addDecimals(opened: Database.Database): void {
  const known = { deterministic: true, directOnly: false };
  const ofTwo = (name: string, apply: (left: string, right: string) => string | number | null) =>
    opened.function(name, known, (left: Value, right: Value) => {
      const [one, other] = [text(left), text(right)];
      return one === null || other === null ? null : apply(one, other);
    });
  ofTwo('decimal_add', decimals.add);
  ofTwo('decimal_sub', decimals.subtract);
  ofTwo('decimal_mul', decimals.multiply);
  ofTwo('decimal_mod', decimals.remainder);
  ofTwo('decimal_cmp', decimals.compare);
  ofTwo('decimal_scale', (value, scale) => decimals.scaled(value, Number(scale)));
  opened.function('decimal_order', known, (value: Value) => {
    const written = text(value);
    return written === null ? null : decimals.order(written);
  });
  opened.function('decimal_round', known, (value: Value, places: Value, scale: Value) => {
    const written = text(value);
    return written === null || places === null ? null : decimals.rounded(written, Number(places), Number(scale));
  });
  const chosen = (name: string, isBetter: (order: number) => boolean) => {
    const better = (best: string | null, value: Value) => {
      const written = text(value);
      if (written === null) return best;
      return best === null || isBetter(decimals.compare(written, best) ?? 0) ? written : best;
    };
    return { name, better };
  };
  const least = chosen('least', (order) => order < 0);
  const most = chosen('greatest', (order) => order > 0);
  for (const { name, better } of [least, most])
    opened.function(`decimal_${name}`, { ...known, varargs: true }, (...values: Value[]) =>
      values.includes(null) ? null : values.reduce<string | null>(better, null),
    );
  for (const [name, { better }] of [['min', least] as const, ['max', most] as const])
    opened.aggregate<string | null>(`decimal_${name}`, { deterministic: true, start: null, step: better });
  opened.aggregate<string | null>('decimal_sum', {
    deterministic: true,
    start: null,
    step: (total, value: Value) => {
      const written = text(value);
      if (written === null) return total;
      return total === null ? written : decimals.add(total, written);
    },
  });
  opened.function('whole_number', { ...known, safeIntegers: true }, (value: Value) => {
    if (typeof value === 'number') throw new RangeError('integer overflow');
    return value;
  });
  opened.function('real_text', known, (value: Value) => (typeof value === 'number' ? String(value) : text(value)));
}
