import { keyParts, writeKey } from './composite.js';
import { typeName, type ValueType } from './types.js';

/** A value that does not fit the type of its column, delivered as it is stored. */
export interface Unfit {
  readonly asStored: string | number | { readonly bytes: string };
}

/**
 * A value in the one form that is the same on every engine and in every way of loading: bigint and decimal as text
 * with all their digits, bytes as lower-case hex, dates and times as ISO 8601 in UTC.
 */
export type Wire = string | number | boolean | null | Unfit | { readonly [key: string]: unknown } | readonly unknown[];

export type Parsed = { readonly ok: true; readonly value: Wire } | { readonly ok: false; readonly problem: string };

const DATE = /^(\d{4})-(\d{2})-(\d{2})$/;
const TIME = /^(\d{2}):(\d{2})(?::(\d{2})(?:\.(\d{1,6}))?)?$/;
const TIMESTAMP = /^(\d{4}-\d{2}-\d{2})(?:[T ](\d{2}:\d{2}(?::\d{2}(?:\.\d{1,6})?)?)\s*(Z|[+-]\d{2}:?\d{2})?)?$/;
const UUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;

/** So many digits hold no number that is beyond an integer. */
const SHORT_INTEGER = 9;
const LARGEST_INTEGER = 2147483647n;
const LARGEST_BIGINT = 9223372036854775807n;

/**
 * Reads what a person wrote (a literal, a parameter, a cell) as a value of a type, in its wire form. The problem
 * says what was expected, in words that can follow the name of the thing.
 */
export function parseWire(type: ValueType, written: string): Parsed {
  switch (type.kind) {
    case 'integer':
    case 'bigint': {
      if (!/^-?\d{1,19}$/.test(written)) return wrong(type, written, 'write digits only, as in 42.');
      // What is short is within the range of both, and most numbers are.
      if (written.length <= SHORT_INTEGER)
        return { ok: true, value: type.kind === 'integer' ? Number(written) + 0 : String(Number(written) + 0) };
      const value = BigInt(written);
      const largest = type.kind === 'integer' ? LARGEST_INTEGER : LARGEST_BIGINT;
      if (value > largest || value < -largest - 1n) return wrong(type, written, `it goes from ${-largest - 1n} to ${largest}.`);
      return { ok: true, value: type.kind === 'integer' ? Number(value) : String(value) };
    }
    case 'real': {
      const value = Number(written);
      return written.trim() !== '' && Number.isFinite(value)
        ? { ok: true, value }
        : wrong(type, written, 'write a number, as in 2.5.');
    }
    case 'decimal': {
      const digits = /^(-?)(\d+)(?:\.(\d+))?$/.exec(written);
      if (digits === null) return wrong(type, written, 'write a number, as in 2.50.');
      const [, sign = '', whole = '', fraction = ''] = digits;
      const significant = whole.replace(/^0+/, '');
      if (significant.length > type.precision - type.scale)
        return wrong(type, written, `it holds ${type.precision - type.scale} digits before the point.`);
      if (fraction.slice(type.scale).replaceAll('0', '') !== '')
        return wrong(type, written, `it holds ${type.scale} digits behind the point.`);
      const scaled = fraction.slice(0, type.scale).padEnd(type.scale, '0');
      const text = `${significant === '' ? '0' : significant}${type.scale > 0 ? `.${scaled}` : ''}`;
      return { ok: true, value: sign === '-' && /[1-9]/.test(text) ? `-${text}` : text };
    }
    case 'boolean':
      if (written === 'true' || written === 'false') return { ok: true, value: written === 'true' };
      return wrong(type, written, 'write true or false.');
    case 'text':
    case 'choice':
      if (written.includes('\0')) return wrong(type, written, 'a text cannot hold the character U+0000.');
      if (type.kind === 'choice' && !type.values.includes(written)) return wrong(type, written, `choose ${oneOf(type.values)}.`);
      // There are no more characters than units of 16 bits, which need not be counted.
      if (type.length !== null && written.length > type.length && characters(written) > type.length)
        return wrong(type, written, `it is longer than ${type.length} characters.`);
      return { ok: true, value: written };
    case 'date':
      return isDate(written) && !written.startsWith('0000')
        ? { ok: true, value: written }
        : wrong(type, written, "write it as '2031-04-12'.");
    case 'time': {
      const time = normalTime(written);
      return time === null ? wrong(type, written, "write it as '09:30' or '09:30:15'.") : { ok: true, value: time };
    }
    case 'timestamp': {
      const timestamp = normalTimestamp(written);
      return timestamp === null
        ? wrong(type, written, "write it as '2031-04-12 09:30'; without an offset it is UTC.")
        : { ok: true, value: timestamp };
    }
    case 'uuid':
      return UUID.test(written)
        ? { ok: true, value: written.toLowerCase() }
        : wrong(type, written, 'write 32 hexadecimal digits in the usual five groups.');
    case 'json':
      try {
        const value = JSON.parse(written) as Wire;
        if (holdsNul(value)) return wrong(type, written, 'a text in it cannot hold the character U+0000.');
        return { ok: true, value };
      } catch {
        return wrong(type, written, 'it is not valid JSON.');
      }
    case 'bytes':
      return /^(?:[0-9a-f]{2})*$/i.test(written)
        ? { ok: true, value: written.toLowerCase() }
        : wrong(type, written, 'write it in hexadecimal digits, two a byte.');
    case 'composite': {
      const parts = keyParts(written);
      if (parts === null || parts.length !== type.parts.length)
        return wrong(type, written, `write its ${type.parts.length} parts as [1,"x"].`);
      const read: Wire[] = [];
      for (const [index, part] of type.parts.entries()) {
        const parsed = parseWire(part, parts[index] ?? '');
        if (!parsed.ok) return parsed;
        read.push(parsed.value);
      }
      return { ok: true, value: writeKey(type.parts, read) };
    }
    case 'sql':
      return { ok: true, value: written };
  }
}

function wrong(type: ValueType, written: string, expected: string): Parsed {
  return { ok: false, problem: `“${shortened(written)}” is no ${typeName(type)}: ${expected}` };
}

const SHORTEST_MONTH = 28;

/** Is this `YYYY-MM-DD`, and a day that the calendar has? */
export function isDate(text: string): boolean {
  const parts = DATE.exec(text);
  if (parts === null) return false;
  const [year, month, day] = [Number(parts[1]), Number(parts[2]), Number(parts[3])];
  return month >= 1 && month <= 12 && day >= 1 && (day <= SHORTEST_MONTH || day <= daysInMonth(year, month));
}

/** The number of days of a month, counted from 1, in the Gregorian calendar. */
export function daysInMonth(year: number, month: number): number {
  return new Date(Date.UTC(2000 + (year % 400), month, 0)).getUTCDate();
}

function normalTime(text: string): string | null {
  const parts = TIME.exec(text);
  if (parts === null) return null;
  const [, hour = '', minute = '', second = '00', fraction] = parts;
  if (Number(hour) > 23 || Number(minute) > 59 || Number(second) > 59) return null;
  const trimmed = fraction?.replace(/0+$/, '') ?? '';
  return `${hour}:${minute}:${second}${trimmed === '' ? '' : `.${trimmed.padEnd(6, '0')}`}`;
}

/** `YYYY-MM-DDTHH:MM:SS.ffffffZ` for a timestamp as people write it, or null. An offset is taken off. */
export function normalTimestamp(text: string): string | null {
  const parts = TIMESTAMP.exec(text);
  if (parts === null || !isDate(parts[1] ?? '') || parts[1]?.startsWith('0000') === true) return null;
  const time = normalTime(parts[2] ?? '00:00');
  if (time === null) return null;
  const fraction = (time.split('.')[1] ?? '').padEnd(6, '0');
  const seconds = time.slice(0, 8);
  const offset = parts[3];
  if (offset === undefined || offset === 'Z') return `${parts[1]}T${seconds}.${fraction}Z`;
  const minutes = Number(offset.slice(1, 3)) * 60 + Number(offset.slice(-2));
  const moved = new Date(Date.parse(`${parts[1]}T${seconds}Z`) - (offset.startsWith('-') ? -1 : 1) * minutes * 60_000);
  return `${moved.toISOString().slice(0, 19)}.${fraction}Z`;
}

/** Counts characters as the engines' `length` does: code points. */
export function characters(text: string): number {
  let count = 0;
  for (const _ of text) count += 1;
  return count;
}

/** Is there a U+0000 in any text, or name, of a value of JSON? */
function holdsNul(value: unknown): boolean {
  return /(?<!\\)(?:\\\\)*\\u0000/.test(JSON.stringify(value));
}

function oneOf(values: readonly string[]): string {
  const shown = values.slice(0, 8).map((value) => `'${value}'`);
  if (values.length > 8) shown.push('…');
  return shown.join(', ');
}

function shortened(text: string): string {
  return text.length > 40 ? `${text.slice(0, 37)}…` : text;
}
