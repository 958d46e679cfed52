import type { ValueType } from './types.js';
import { isDate, parseWire, type Wire } from './wire.js';

/** Bytes in hexadecimal. */
export function hexOf(bytes: Uint8Array): string {
  let hex = '';
  for (const byte of bytes) hex += byte.toString(16).padStart(2, '0');
  return hex;
}

/** Hexadecimal as bytes. */
export function bytesOf(hex: string): Uint8Array {
  const bytes = new Uint8Array(hex.length / 2);
  for (let index = 0; index < bytes.length; index++) bytes[index] = Number.parseInt(hex.slice(index * 2, index * 2 + 2), 16);
  return bytes;
}

const TIME_FORM = /^([01]\d|2[0-3]):[0-5]\d:[0-5]\d(\.\d{1,6})?$/;
const TIMESTAMP_FORM = /^(\d{4}-\d{2}-\d{2}) (\d{2}:\d{2}:\d{2})(?:\.(\d{1,6}))?(\+00)?$/;

/** A day that the wire can say, as a server writes it; null for another, as for a zero date. */
export function readDate(text: string): Wire {
  return isDate(text) && !text.startsWith('0000') ? text : null;
}

/** A time of day as a server writes it; null for one past midnight. */
export function readTime(text: string): Wire {
  return TIME_FORM.test(text) ? fractioned(text) : null;
}

/** A timestamp as a server in UTC writes it, in the form of the wire; null for what that cannot say. */
export function readTimestamp(text: string): Wire {
  const [, date = '', time = '', fraction = ''] = TIMESTAMP_FORM.exec(text) ?? [];
  return readDate(date) === null ? null : `${date}T${time}.${fraction.padEnd(6, '0')}Z`;
}

/** How an integer or decimal stands in an engine's text. */
export const NUMBER_FORM = /^-?\d+(\.\d+)?$/;

/** Reads a value's text; what does not fit arrives as it is stored. */
export function decoded(read: (text: string) => Wire): (value: unknown) => Wire {
  return (value) => {
    if (value === null || value === undefined) return null;
    const text = value instanceof Uint8Array ? hexOf(value) : String(value);
    return read(text) ?? { asStored: text };
  };
}

/** A time of day with no needless digit behind the point, else with six. */
function fractioned(time: string): string {
  const [seconds = '', fraction = ''] = time.split('.');
  const digits = fraction.replace(/0+$/, '');
  return digits === '' ? seconds : `${seconds}.${digits.padEnd(6, '0')}`;
}

/** A value of a type that stands in JSON in its wire form; anything else arrives as it is stored. */
export function fromJsonText(type: ValueType): (text: unknown) => Wire {
  return (text) => {
    if (text === null || text === undefined) return null;
    const value = parsedJson(String(text));
    if (value === null || type.kind === 'json') return value;
    if (typeof value === 'object')
      return 'asStored' in value && Object.keys(value).length === 1 ? (value as Wire) : { asStored: String(text) };
    const isPlain = type.kind === 'integer' || type.kind === 'real' ? 'number' : type.kind === 'boolean' ? 'boolean' : 'string';
    const parsed = typeof value === isPlain ? parseWire(type, String(value)) : null;
    return parsed?.ok === true ? parsed.value : { asStored: typeof value === 'boolean' ? String(value) : value };
  };
}

/** JSON by its value; what is none arrives as it is stored. */
export function parsedJson(text: string): Wire {
  try {
    return JSON.parse(text) as Wire;
  } catch {
    return { asStored: text };
  }
}
