import { entityOf, type Field, lineage, type Model } from '../model/index.js';
import { parseWire, type ValueType, type Wire } from '../values/index.js';

/** A value as a file has it: a text of CSV, any value of JSON; null for nothing, undefined where the line does not speak of it. */
export type FileValue = string | number | boolean | null | undefined | readonly unknown[] | { readonly [key: string]: unknown };

/** A value that was read, or why it cannot be, in words that can stand behind the column's name. */
export type ReadValue = { readonly ok: true; readonly value: Wire } | { readonly ok: false; readonly problem: string };

const YES = new Set(['true', 't', 'yes', 'y', '1']);
const NO = new Set(['false', 'f', 'no', 'n', '0']);

/** Reads a value of a file as one of a type. Texts are read as a person writes them; a boolean in any of the usual ways. */
export function readValue(type: ValueType, value: NonNullable<FileValue>): ReadValue {
  if (type.kind === 'json' && typeof value !== 'string') return { ok: true, value: value as Wire };
  switch (typeof value) {
    case 'string':
      return readText(type, value);
    case 'number':
      // Beyond this, what JSON was read into is not what the file says (RFC 8259, 6).
      if (Number.isInteger(value) && !Number.isSafeInteger(value))
        return {
          ok: false,
          problem: `${value} has more digits than a number of JSON keeps here. Write it as a text, in quotes.`,
        };
      return readText(type, plainNumber(value));
    case 'boolean':
      return readText(type, String(value));
    default:
      return { ok: false, problem: `a list or an object is no ${type.kind}.` };
  }
}

function readText(type: ValueType, text: string): ReadValue {
  if (type.kind === 'text' || type.kind === 'choice') return parseWire(type, text);
  if (type.kind === 'boolean') {
    const word = text.trim().toLowerCase();
    if (YES.has(word) || NO.has(word)) return { ok: true, value: YES.has(word) };
  }
  return parseWire(type, type.kind === 'json' ? text : text.trim());
}

/** A number without an exponent, which decimals and integers are not written with. */
function plainNumber(value: number): string {
  const text = String(value);
  return text.includes('e') ? value.toFixed(20).replace(/\.?0+$/, '') : text;
}

/** Reads a value for a field, and holds it against the values that the field allows. */
export function readField({ type, allowed }: Field, value: NonNullable<FileValue>): ReadValue {
  const read = readValue(type, value);
  if (!read.ok || allowed === null || allowed.includes(read.value)) return read;
  return { ok: false, problem: `it is none of ${allowed.map((one) => JSON.stringify(one)).join(', ')}.` };
}

/** A row by its key, as a file names it: `3`, or `Player(3)` where rows of several entities can be meant. */
export function readRowName(
  model: Model,
  targets: readonly string[],
  text: string,
): { readonly entity: string; readonly key: Wire } | null {
  const named = /^(\w+)\((.*)\)$/s.exec(text.trim());
  const said = named === null ? null : targets.find((target) => target === named[1] || isBelow(model, named[1] ?? '', target));
  const [only, ...more] = targets;
  const entity = said ?? (named === null && more.length === 0 ? only : undefined);
  if (entity === undefined) return null;
  const key = parseWire(entityOf(model, entity).key.type, named === null ? text.trim() : (named[2] ?? ''));
  return key.ok ? { entity, key: key.value } : null;
}

function isBelow(model: Model, name: string, base: string): boolean {
  return model.entities.has(name) && lineage(model, name).some((one) => one.name === base);
}
