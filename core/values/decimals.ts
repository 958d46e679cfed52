/** An exact decimal: so many digits, of which the last `scale` stand behind the point. */
interface Decimal {
  readonly digits: bigint;
  readonly scale: number;
}

const FORM = /^([+-]?)(\d*)(?:\.(\d*))?(?:[eE]([+-]?\d{1,3}))?$/;

/**
 * Exact arithmetic over decimals in their text, of any length; null where a text is no decimal.
 *
 * A sum has the larger scale, a product the sum of both (SQL:2016, 6.29).
 */
export const decimals = {
  add: (left: string, right: string) => aligned(left, right, (a, b) => a + b),
  subtract: (left: string, right: string) => aligned(left, right, (a, b) => a - b),
  remainder: (left: string, right: string) => aligned(left, right, (a, b) => (b === 0n ? null : a % b)),

  multiply(left: string, right: string): string | null {
    const [a, b] = [read(left), read(right)];
    return a === null || b === null ? null : written({ digits: a.digits * b.digits, scale: a.scale + b.scale });
  },

  /** Less than 0, 0, or more, as the first is less than the second, equal, or more. */
  compare(left: string, right: string): number | null {
    const [a, b] = [read(left), read(right)];
    if (a === null || b === null) return null;
    const scale = Math.max(a.scale, b.scale);
    const [one, other] = [atScale(a, scale), atScale(b, scale)];
    return one < other ? -1 : one > other ? 1 : 0;
  },

  /** With so many digits behind the point; a half goes away from zero. */
  scaled(text: string, scale: number): string | null {
    const value = read(text);
    return value === null ? null : written({ digits: atScale(value, scale), scale });
  },

  /** Rounded to so many places, which may be before the point, and written with `scale` digits behind it. */
  rounded(text: string, places: number, scale: number): string | null {
    const value = read(text);
    if (value === null) return null;
    const kept = atScale(value, places);
    return written({ digits: atScale({ digits: kept, scale: places }, scale), scale });
  },

  /** A text by whose order, code point by code point, decimals stand in theirs. */
  order(text: string): string | null {
    const value = read(text);
    if (value === null) return null;
    const [whole = '0', fraction = ''] = written({ ...value, digits: value.digits < 0n ? -value.digits : value.digits }).split(
      '.',
    );
    const key = `${String(whole.length).padStart(4, '0')}${whole}.${fraction.replace(/0+$/, '')}`;
    if (value.digits >= 0n) return `1${key}`;
    return `0${key.replace(/\d/g, (digit) => String(9 - Number(digit)))}~`;
  },
};

function read(text: string): Decimal | null {
  const parts = FORM.exec(text);
  if (parts === null) return null;
  const [, sign = '', whole = '', fraction = '', exponent = '0'] = parts;
  if (whole === '' && fraction === '') return null;
  const digits = BigInt(`${whole}${fraction}`) * (sign === '-' ? -1n : 1n);
  const scale = fraction.length - Number(exponent);
  return scale < 0 ? { digits: digits * 10n ** BigInt(-scale), scale: 0 } : { digits, scale };
}

function atScale({ digits, scale }: Decimal, wanted: number): bigint {
  if (wanted >= scale) return digits * 10n ** BigInt(wanted - scale);
  const divisor = 10n ** BigInt(scale - wanted);
  const half = divisor / 2n;
  return (digits < 0n ? digits - half : digits + half) / divisor;
}

function aligned(left: string, right: string, apply: (a: bigint, b: bigint) => bigint | null): string | null {
  const [a, b] = [read(left), read(right)];
  if (a === null || b === null) return null;
  const scale = Math.max(a.scale, b.scale);
  const digits = apply(atScale(a, scale), atScale(b, scale));
  return digits === null ? null : written({ digits, scale });
}

function written({ digits, scale }: Decimal): string {
  const size = (digits < 0n ? -digits : digits).toString().padStart(scale + 1, '0');
  const point = size.length - scale;
  return `${digits < 0n ? '-' : ''}${size.slice(0, point)}${scale > 0 ? `.${size.slice(point)}` : ''}`;
}
