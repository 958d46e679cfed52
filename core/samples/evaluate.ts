import type { Expression } from '../model/index.js';
import { characters, daysInMonth, decimals } from '../values/index.js';

/** A value while an expression is computed in the program. */
export type Computed = string | number | boolean | null;

/** Gives the value of a field of the row at hand. */
export type Lookup = (field: string) => Computed;

/** Gives the value of an expression that walks to other rows; undefined where those are not at hand. */
export type Beyond = (expression: Expression) => Computed | undefined;

/**
 * The value of an expression over a row's own fields, by SQL's rules: three-valued logic, null from null. Undefined
 * where it walks relations or asks for something that is not at hand.
 */
export function evaluate(
  expression: Expression,
  lookup: Lookup,
  now: string,
  beyond: Beyond = () => undefined,
): Computed | undefined {
  const value = (inner: Expression) => evaluate(inner, lookup, now, beyond);
  switch (expression.kind) {
    case 'value': {
      const { value: literal, type } = expression;
      if (typeof literal === 'string' && (type.kind === 'integer' || type.kind === 'bigint' || type.kind === 'decimal'))
        return isLong(literal) ? literal : Number(literal);
      return literal === null || typeof literal !== 'object' ? literal : undefined;
    }
    case 'clock':
      return expression.which === 'now' ? now : now.slice(0, 10);
    case 'field':
      return expression.hops.length === 0 ? lookup(expression.field) : beyond(expression);
    case 'named':
      return expression.hops.length === 0 ? value(expression.expression) : beyond(expression);
    case 'pivot field':
      return lookup(expression.field);
    case 'me':
      return beyond(expression);
    case 'parameter':
    case 'sample row':
    case 'interval':
      return undefined;
    case 'role':
    case 'is kind':
    case 'points at':
    case 'same row':
    case 'quantified':
    case 'aggregated':
      return beyond(expression);
    case 'of group':
    case 'group term':
      return undefined;
    case 'binary':
      return binary(expression, value);
    case 'not': {
      const operand = value(expression.operand);
      return typeof operand === 'boolean' ? !operand : operand;
    }
    case 'negate': {
      const operand = value(expression.operand);
      if (typeof operand === 'string' && isNumeric(operand)) return decimals.subtract('0', operand);
      return typeof operand === 'number' ? 0 - operand : operand;
    }
    case 'is null': {
      const operand = value(expression.operand);
      return operand === undefined ? undefined : (operand === null) !== expression.negated;
    }
    case 'in': {
      const operand = value(expression.operand);
      const items = expression.items.map(value);
      if (operand === undefined || items.includes(undefined)) return undefined;
      if (operand === null) return null;
      if (items.includes(operand)) return !expression.negated;
      return items.includes(null) ? null : expression.negated;
    }
    case 'between': {
      const [operand, low, high] = [value(expression.operand), value(expression.low), value(expression.high)];
      if (operand === undefined || low === undefined || high === undefined) return undefined;
      // It is “operand >= low and operand <= high”: one that is false decides, though the other is unknown.
      const inside = conjunction(atLeast(operand, low), atLeast(high, operand));
      return inside === null ? null : inside !== expression.negated;
    }
    case 'like': {
      const [operand, pattern] = [value(expression.operand), value(expression.pattern)];
      if (operand === undefined || pattern === undefined) return undefined;
      if (operand === null || pattern === null) return null;
      return isLike(String(operand), String(pattern)) !== expression.negated;
    }
    case 'function':
      return applied(expression.name, expression.args.map(value));
    case 'case': {
      for (const branch of expression.branches) {
        const when = value(branch.when);
        if (when === undefined) return undefined;
        if (when === true) return value(branch.then);
      }
      return expression.otherwise === null ? null : value(expression.otherwise);
    }
  }
}

function atLeast(value: Computed, bound: Computed): boolean | null {
  return value === null || bound === null ? null : compare(value, bound) >= 0;
}

/** SQL's and: false decides, then unknown. */
function conjunction(left: Computed, right: Computed): boolean | null {
  if (left === false || right === false) return false;
  return left === null || right === null ? null : true;
}

function binary(
  expression: Extract<Expression, { kind: 'binary' }>,
  value: (inner: Expression) => Computed | undefined,
): Computed | undefined {
  const { operator } = expression;
  const left = value(expression.left);
  if (expression.right.kind === 'interval') {
    if (typeof left !== 'string') return left;
    const { amount, unit } = expression.right;
    return shifted(left, (operator === '-' ? -1 : 1) * Number(amount), unit);
  }
  const right = value(expression.right);
  if (left === undefined || right === undefined) return undefined;
  if (operator === 'and') return conjunction(left, right);
  if (operator === 'or') return left === true || right === true ? true : left === null || right === null ? null : false;
  if (left === null || right === null) return null;
  switch (operator) {
    case '=':
      return compare(left, right) === 0;
    case '<>':
      return compare(left, right) !== 0;
    case '<':
      return compare(left, right) < 0;
    case '<=':
      return compare(left, right) <= 0;
    case '>':
      return compare(left, right) > 0;
    case '>=':
      return compare(left, right) >= 0;
    case '||':
      return bounded(`${left}${right}`);
    case '-':
      if (typeof left === 'string' && typeof right === 'string')
        return Math.round((Date.parse(left) - Date.parse(right)) / 86_400_000);
      return arithmetic(operator, left, right, expression);
    default:
      return arithmetic(operator, left, right, expression);
  }
}

function arithmetic(
  operator: '+' | '-' | '*' | '/' | '%',
  left: Computed,
  right: Computed,
  { type }: Expression,
): Computed | undefined {
  if (type.kind === 'decimal') return ofDecimals(operator, String(left), String(right));
  const [a, b] = [Number(left), Number(right)];
  const whole = type.kind === 'integer' || type.kind === 'bigint';
  // SQL has no minus zero; adding zero takes the sign off.
  const round = (result: number) => result + 0;
  switch (operator) {
    case '+':
      return round(a + b);
    case '-':
      return round(a - b);
    case '*':
      return round(a * b);
    case '/':
      return b === 0 ? null : round(whole ? Math.trunc(a / b) : a / b);
    case '%':
      return b === 0 ? null : round(a % b);
  }
}

/** A result of up to 15 digits is a number, as decimals of so many are; a longer one stays a text. */
function ofDecimals(operator: '+' | '-' | '*' | '/' | '%', left: string, right: string): Computed | undefined {
  const compute = { '+': decimals.add, '-': decimals.subtract, '*': decimals.multiply, '%': decimals.remainder };
  if (operator === '/') return undefined;
  const result = compute[operator](left, right);
  return result === null || isLong(result) ? result : Number(result);
}

function isLong(digits: string): boolean {
  return digits.replace(/\D/g, '').length > 15;
}

/** Orders two values of one family: numbers by size, texts by code point. */
export function compare(left: Computed, right: Computed): number {
  if (typeof left === 'string' && typeof right === 'string' && !(isNumeric(left) && isNumeric(right)))
    return left < right ? -1 : left > right ? 1 : 0;
  if (typeof left === 'number' && typeof right === 'number') return left - right;
  return decimals.compare(String(left), String(right)) ?? Number(left) - Number(right);
}

function isNumeric(text: string): boolean {
  return /^-?\d+(\.\d+)?$/.test(text);
}

function applied(name: string, args: readonly (Computed | undefined)[]): Computed | undefined {
  const known = args.filter((arg) => arg !== undefined);
  if (known.length < args.length) return undefined;
  if (name === 'coalesce') return known.find((arg) => arg !== null) ?? null;
  if (known.includes(null)) return null;
  const [first = null, second = null, third = null] = known;
  switch (name) {
    case 'lower':
      return String(first).replace(/[A-Z]/g, (letter) => letter.toLowerCase());
    case 'upper':
      return String(first).replace(/[a-z]/g, (letter) => letter.toUpperCase());
    case 'length':
      return characters(String(first));
    case 'trim':
      return String(first).replace(/^ +| +$/g, '');
    case 'abs':
      return typeof first === 'string' ? first.replace('-', '') : Math.abs(Number(first));
    case 'round': {
      if (typeof first === 'string') return decimals.rounded(first, Number(second ?? 0), Math.max(0, Number(second ?? 0)));
      const factor = 10 ** Number(second ?? 0);
      // A hair further from zero: a half that no double holds is one as a person reads it.
      return (Math.sign(Number(first)) * Math.round(Math.abs(Number(first)) * (1 + Number.EPSILON) * factor)) / factor;
    }
    case 'least':
      return known.reduce((least, arg) => (compare(arg, least) < 0 ? arg : least), first);
    case 'greatest':
      return known.reduce((most, arg) => (compare(arg, most) > 0 ? arg : most), first);
    case 'substr': {
      const letters = Array.from(String(first));
      const start = Number(second);
      const from = start > 0 ? start - 1 : start === 0 ? -1 : letters.length + start;
      const to = third === null ? letters.length : from + Number(third);
      return letters.slice(Math.max(0, from), Math.max(0, to)).join('');
    }
    case 'replace':
      return second === '' ? first : replaced(String(first), String(second), String(third));
    default:
      return undefined;
  }
}

/** Texts of a check are not grown beyond this: a few words can ask for more letters than there is memory. */
const LONGEST_TEXT = 1_000_000;

function bounded(text: string): string | undefined {
  return text.length > LONGEST_TEXT ? undefined : text;
}

function replaced(text: string, part: string, by: string): string | undefined {
  const times = text.split(part).length - 1;
  return text.length + times * (by.length - part.length) > LONGEST_TEXT ? undefined : text.replaceAll(part, by);
}

/**
 * Whether a text is like a pattern: `%` stands for any letters, `_` for one, a backslash before a letter for that letter.
 * It goes back to the last `%` alone, so that no pattern takes longer than its length times the text’s.
 */
function isLike(written: string, pattern: string): boolean {
  const text = Array.from(written);
  const parts = partsOf(pattern);
  let [at, part] = [0, 0];
  let [heldAt, heldPart] = [0, -1];
  while (at < text.length) {
    const wanted = parts[part];
    if (wanted === 'any') {
      heldAt = at;
      heldPart = part;
      part += 1;
    } else if (wanted !== undefined && (wanted === 'one' || wanted.letter === text[at])) {
      at += 1;
      part += 1;
    } else if (heldPart >= 0) {
      heldAt += 1;
      at = heldAt;
      part = heldPart + 1;
    } else return false;
  }
  while (parts[part] === 'any') part += 1;
  return part === parts.length;
}

type PatternPart = 'any' | 'one' | { readonly letter: string };

function partsOf(pattern: string): PatternPart[] {
  const parts: PatternPart[] = [];
  const letters = Array.from(pattern);
  for (let index = 0; index < letters.length; index++) {
    const letter = letters[index] ?? '';
    if (letter === '%') parts.push('any');
    else if (letter === '_') parts.push('one');
    else if (letter === '\\') {
      index += 1;
      parts.push({ letter: letters[index] ?? '\\' });
    } else parts.push({ letter });
  }
  return parts;
}

/** The years that a date of the notation can have. */
const FIRST_MOMENT = '0001-01-01T00:00:00.000Z';
const LAST_MOMENT = '9999-12-31T23:59:59.999Z';

/** A date or timestamp moved by an interval; months and years clamp to the end of the month, and all to the years 1 to 9999. */
export function shifted(moment: string, amount: number, unit: string): string {
  const hasTime = moment.length > 10;
  const date = new Date(hasTime ? `${moment.slice(0, 23)}Z` : `${moment}T00:00:00Z`);
  if (unit === 'month' || unit === 'year') {
    const months = date.getUTCFullYear() * 12 + date.getUTCMonth() + amount * (unit === 'year' ? 12 : 1);
    const day = Math.min(date.getUTCDate(), daysInMonth(Math.floor(months / 12), (months % 12) + 1));
    date.setUTCFullYear(Math.floor(months / 12), months % 12, day);
  } else {
    const milliseconds = { minute: 60_000, hour: 3_600_000, day: 86_400_000, week: 604_800_000 }[unit] ?? 0;
    date.setTime(date.getTime() + amount * milliseconds);
  }
  const iso = isoInside(date, amount);
  return hasTime ? `${iso.slice(0, 19)}.${moment.slice(20, 26)}Z` : iso.slice(0, 10);
}

function isoInside(date: Date, amount: number): string {
  const year = date.getUTCFullYear();
  if (Number.isNaN(year)) return amount < 0 ? FIRST_MOMENT : LAST_MOMENT;
  return year < 1 ? FIRST_MOMENT : year > 9999 ? LAST_MOMENT : date.toISOString();
}
