import type { Field, SampleGenerator } from '../model/index.js';
import type { Expr, Literal } from '../notation/index.js';
import { parseWire, type Wire } from '../values/index.js';
import { shifted } from './evaluate.js';
import type { Hints } from './hints.js';
import type { Chance } from './random.js';
import { textFor } from './words.js';

export interface Making {
  readonly chance: Chance;
  /** What now is, as a timestamp in wire form. */
  readonly now: string;
  readonly hints: Hints | undefined;
  readonly generator: SampleGenerator | undefined;
  /** The number of the row, from 1; it makes values of unique fields differ. */
  readonly row: number;
}

const EMPTY_SHARE = 20;

/** A value for a field: as its sample line says, else one that fits its type, its checks and its name. */
export function makeValue(field: Field, making: Making): Wire {
  const { chance, generator } = making;
  const stated = generator?.generator;
  if (stated?.kind === 'values') return fromValues(field, stated, making);
  if (stated?.kind === 'between') {
    if (chance.percent(stated.nullShare)) return null;
    return inRange(field, momentOf(stated.low, making), momentOf(stated.high, making), making);
  }
  if (!field.required && chance.percent(EMPTY_SHARE)) return null;
  const allowed = field.allowed ?? making.hints?.values ?? (field.type.kind === 'choice' ? field.type.values : null);
  if (allowed !== null && allowed.length > 0) return asWire(field, chance.pick(allowed) ?? null);
  return ofType(field, making);
}

function fromValues(
  field: Field,
  stated: Extract<SampleGenerator['generator'], { kind: 'values' }>,
  { chance, now }: Making,
): Wire {
  if (chance.percent(stated.nullShare)) return null;
  const given = stated.values.reduce((sum, { share }) => sum + (share ?? 0), 0);
  const unshared = stated.values.filter(({ share }) => share === null).length;
  const rest = unshared === 0 ? 0 : Math.max(0, 100 - given) / unshared;
  let roll = chance.between(0, 9999) / 100;
  // Shares that do not reach a hundred are stretched to it.
  roll *= Math.max(given + rest * unshared, 0.01) / 100;
  for (const { value, share } of stated.values) {
    roll -= share ?? rest;
    if (roll < 0) return literalWire(field, value, now);
  }
  const last = stated.values.at(-1);
  return last === undefined ? null : literalWire(field, last.value, now);
}

function literalWire(field: Field, literal: Literal, now: string): Wire {
  switch (literal.kind) {
    case 'null':
      return null;
    case 'today':
      return field.type.kind === 'timestamp' ? `${now.slice(0, 10)}T00:00:00.000000Z` : now.slice(0, 10);
    case 'now':
      return field.type.kind === 'date' ? now.slice(0, 10) : now;
    case 'number':
      return asWire(field, literal.text);
    default:
      return asWire(field, literal.value);
  }
}

function asWire(field: Field, value: unknown): Wire {
  const parsed = parseWire(field.type, String(value));
  return parsed.ok ? parsed.value : (value as Wire);
}

/** A bound of a range: a literal, or a moment moved by an interval. */
function momentOf(expr: Expr, making: Making): string | number | null {
  switch (expr.kind) {
    case 'number':
      return Number(expr.text);
    case 'negate': {
      const inner = momentOf(expr.operand, making);
      return typeof inner === 'number' ? -inner : null;
    }
    case 'text':
      return expr.value;
    case 'today':
      return making.now.slice(0, 10);
    case 'now':
      return making.now;
    case 'binary': {
      const left = momentOf(expr.left, making);
      if (typeof left === 'string' && expr.right.kind === 'interval') {
        return shifted(left, (expr.operator === '-' ? -1 : 1) * Number(expr.right.amount), expr.right.unit);
      }
      return left;
    }
    default:
      return null;
  }
}

function inRange(field: Field, low: string | number | null, high: string | number | null, making: Making): Wire {
  const { chance } = making;
  switch (field.type.kind) {
    case 'integer':
    case 'bigint':
      return asWire(field, chance.between(Math.ceil(Number(low ?? 0)), Math.floor(Number(high ?? 100))));
    case 'real':
      return Number(
        (Number(low ?? 0) + (chance.between(0, 10_000) / 10_000) * (Number(high ?? 100) - Number(low ?? 0))).toFixed(3),
      );
    case 'decimal': {
      const places = Math.min(field.type.scale, MOST_PLACES);
      const unit = 10 ** places;
      const cents = chance.between(Math.ceil(Number(low ?? 0) * unit), Math.floor(Number(high ?? 100) * unit));
      return decimalText(cents, places, field.type.scale);
    }
    case 'date': {
      const days = daysFrom(low, making.now, -400);
      return dayText(chance.between(days, Math.max(days, daysFrom(high, making.now, 0))));
    }
    case 'timestamp': {
      const from = secondsFrom(low, making.now, -400);
      const seconds = chance.between(from, Math.max(from, secondsFrom(high, making.now, 0)));
      return `${new Date(seconds * 1000).toISOString().slice(0, 19)}.000000Z`;
    }
    case 'time': {
      const seconds = chance.between(secondsOfDay(low, 8), Math.max(secondsOfDay(low, 8), secondsOfDay(high, 22)));
      return new Date(seconds * 1000).toISOString().slice(11, 19);
    }
    case 'text':
      return typeof low === 'string' ? low : null;
    default:
      return null;
  }
}

/** How many places of a decimal are made by chance; those behind them are zero. */
const MOST_PLACES = 6;

/** A count of the smallest unit, as a decimal of some places. */
function decimalText(units: number, places: number, scale: number): string {
  const digits = String(Math.abs(units)).padStart(places + 1, '0');
  const whole = digits.slice(0, digits.length - places);
  const fraction = digits.slice(digits.length - places).padEnd(scale, '0');
  return `${units < 0 ? '-' : ''}${whole}${scale > 0 ? `.${fraction}` : ''}`;
}

function ofType(field: Field, making: Making): Wire {
  const { chance, hints, row } = making;
  const unique = field.unique !== null || field.key;
  const low = hints?.least ?? null;
  const high = hints?.most ?? null;
  switch (field.type.kind) {
    case 'integer':
    case 'bigint': {
      if (unique && low === null && high === null) return asWire(field, row);
      const least = Number(low ?? (high === null ? 1 : Math.min(1, Number(high))));
      return inRange(field, least, high ?? least + (unique ? Math.max(100, row * 4) : 100), making);
    }
    case 'real':
    case 'decimal': {
      const widest = field.type.kind === 'decimal' ? Math.min(1000, 10 ** (field.type.precision - field.type.scale) - 1) : 100;
      const least = Number(low ?? 0);
      return inRange(field, least, high ?? Math.max(least, widest), making);
    }
    case 'boolean':
      return field.default?.kind === 'value' && chance.percent(80) ? field.default.value : chance.percent(50);
    case 'date':
    case 'timestamp':
    case 'time':
      return inRange(field, low, high, making);
    case 'uuid':
      return uuid(chance);
    case 'json':
      return { note: textFor('note', chance), weight: chance.between(1, 9) };
    case 'bytes':
      return Array.from({ length: 8 }, () => chance.between(0, 255).toString(16).padStart(2, '0')).join('');
    case 'text':
      return fitted(textFor(field.name, chance), field.type.length, making, unique);
    case 'choice':
      return chance.pick(field.type.values) ?? null;
    case 'composite':
      return null;
    case 'sql':
      return /int/i.test(field.type.declaration) ? chance.between(1, 100) : textFor(field.name, chance).slice(0, 20);
  }
}

/** A check may ask for a text longer than any that is made for it; then its row is left out, and that is told. */
const LONGEST_MADE = 10_000;

/** A text of a length that fits; one for a unique field carries its row's number. */
function fitted(text: string, length: number | null, { hints, row, chance }: Making, unique: boolean): string {
  const shortest = Math.min(hints?.leastLength ?? 0, LONGEST_MADE);
  const longest = Math.min(length ?? Number.POSITIVE_INFINITY, hints?.mostLength ?? Math.max(200, shortest));
  let made = text;
  if (unique) {
    const mark = String(row);
    const at = made.indexOf('@');
    made =
      at > 0
        ? `${made.slice(0, at)}.${mark}${made.slice(at)}`
        : `${made.slice(0, Math.max(0, longest - mark.length - 1))} ${mark}`;
    if (made.length > longest) made = mark.padStart(Math.min(longest, 4), '0');
  }
  if (made.length < shortest) {
    const letters = Array.from({ length: 40 }, () => String.fromCharCode(97 + chance.between(0, 25))).join('');
    made = made.padEnd(shortest, letters);
  }
  return made.slice(0, longest);
}

function uuid(chance: Chance): string {
  const hex = (digits: number) => Array.from({ length: digits }, () => chance.between(0, 15).toString(16)).join('');
  return `${hex(8)}-${hex(4)}-4${hex(3)}-${'89ab'[chance.between(0, 3)]}${hex(3)}-${hex(12)}`;
}

function daysFrom(bound: string | number | null, now: string, offset: number): number {
  const parsed = typeof bound === 'string' ? Date.parse(bound.slice(0, 10)) : Number.NaN;
  return Number.isNaN(parsed) ? Math.floor(Date.parse(now.slice(0, 10)) / 86_400_000) + offset : Math.floor(parsed / 86_400_000);
}

function dayText(days: number): string {
  return new Date(days * 86_400_000).toISOString().slice(0, 10);
}

function secondsFrom(bound: string | number | null, now: string, offset: number): number {
  const parsed = typeof bound === 'string' ? Date.parse(bound.length > 10 ? `${bound.slice(0, 19)}Z` : bound) : Number.NaN;
  return Math.floor((Number.isNaN(parsed) ? Date.parse(`${now.slice(0, 19)}Z`) + offset * 86_400_000 : parsed) / 1000);
}

function secondsOfDay(bound: string | number | null, hour: number): number {
  const parts = typeof bound === 'string' ? bound.split(':').map(Number) : [];
  return parts.length < 2 ? hour * 3600 : (parts[0] ?? 0) * 3600 + (parts[1] ?? 0) * 60 + Math.floor(parts[2] ?? 0);
}
