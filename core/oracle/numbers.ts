/** An exact number: its digits, and how many of them stand behind the point. */
export interface Exact {
  readonly units: bigint;
  readonly scale: number;
}

/** A number as an expression computes with it: exact, or a double. */
export type Numeric = Exact | number;

/** Whether a value is an exact number, and no double. */
export function isExact(value: unknown): value is Exact {
  return typeof value === 'object' && value !== null && 'units' in value && 'scale' in value;
}

/** The exact number that a text of digits is; null where it is none. */
export function exactIn(text: string): Exact | null {
  const [, sign = '', whole = '', places = ''] = /^(-?)(\d+)(?:\.(\d+))?$/.exec(text) ?? [];
  if (whole === '') return null;
  const units = BigInt(`${whole}${places}`);
  return { units: sign === '-' ? -units : units, scale: places.length };
}

/** The same number with so many places; further ones are rounded away, a half away from zero. */
export function withScale({ units, scale }: Exact, wanted: number): Exact {
  if (wanted >= scale) return { units: units * power(wanted - scale), scale: wanted };
  const divisor = power(scale - wanted);
  const half = units < 0n ? -(divisor / 2n) : divisor / 2n;
  return { units: (units + half) / divisor, scale: wanted };
}

/** An exact number in digits, with as many places as it has. */
export function writtenExact({ units, scale }: Exact): string {
  const digits = String(units < 0n ? -units : units).padStart(scale + 1, '0');
  const sign = units < 0n ? '-' : '';
  return scale === 0 ? `${sign}${digits}` : `${sign}${digits.slice(0, -scale)}.${digits.slice(-scale)}`;
}

/** The nearest double (IEEE 754, round to nearest). */
export function asDouble(value: Numeric): number {
  return typeof value === 'number' ? value : Number(writtenExact(value));
}

/** Less than 0 where the left number is smaller, 0 where both are equal; exactly where both are exact, else as doubles. */
export function compareNumbers(left: Numeric, right: Numeric): number {
  if (typeof left === 'number' || typeof right === 'number') return asDouble(left) - asDouble(right);
  const scale = Math.max(left.scale, right.scale);
  const [one, other] = [withScale(left, scale).units, withScale(right, scale).units];
  return one < other ? -1 : one > other ? 1 : 0;
}

/** Whole numbers are divided to whole ones, toward zero; other quotients are doubles. Nothing is divided by zero. */
export function computed(operator: string, left: Numeric, right: Numeric, whole: boolean): Numeric | null {
  if (typeof left === 'number' || typeof right === 'number') return ofDoubles(operator, asDouble(left), asDouble(right));
  const scale = Math.max(left.scale, right.scale);
  const [one, other] = [withScale(left, scale).units, withScale(right, scale).units];
  switch (operator) {
    case '+':
      return { units: one + other, scale };
    case '-':
      return { units: one - other, scale };
    case '*':
      return { units: left.units * right.units, scale: left.scale + right.scale };
    case '%':
      return other === 0n ? null : { units: one % other, scale };
    default:
      if (other === 0n) return null;
      return whole ? { units: one / other, scale: 0 } : asDouble(left) / asDouble(right);
  }
}

function ofDoubles(operator: string, left: number, right: number): number | null {
  switch (operator) {
    case '+':
      return left + right;
    case '-':
      return left - right;
    case '*':
      return left * right;
    case '%':
      return right === 0 ? null : left % right;
    default:
      return right === 0 ? null : left / right;
  }
}

function power(places: number): bigint {
  return 10n ** BigInt(places);
}
