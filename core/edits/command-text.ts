import { quoteText, RESERVED, textExpression } from '../notation/index.js';
import { parseWire, splitKey, type ValueType, type Wire } from '../values/index.js';

/** A row as a command names it. */
export interface RowName {
  readonly entity: string;
  readonly keyType: ValueType;
  readonly key: Wire;
}

/** What is put into a field, or behind a role: a value as it is written for its type, a row, or nothing. */
export type Entered =
  | { readonly kind: 'value'; readonly type: ValueType; readonly text: string }
  | { readonly kind: 'row'; readonly row: RowName }
  /** A row as the notation names it: one that a command before made has no key yet. */
  | { readonly kind: 'named row'; readonly text: string }
  | { readonly kind: 'nothing' };

/** A field or a role with what is put into it. */
export interface Entry {
  readonly name: string;
  readonly entered: Entered;
}

/** The key of a row from its text, as an address has it; null where it is none of this type. */
export function keyFrom(type: ValueType, written: string): Wire {
  const parsed = parseWire(type, written);
  return parsed.ok ? parsed.value : null;
}

/** A name as the notation writes it: in double quotes where it would be read as something else. */
export function nameText(name: string): string {
  const isPlain = /^[A-Za-z_]\w*$/.test(name) && !(RESERVED as readonly string[]).includes(name);
  return isPlain ? name : `"${name.replaceAll('"', '""')}"`;
}

/** `Player(3)`, or of a key of several parts `Seat(1, 'x')`. */
export function rowText({ entity, keyType, key }: RowName): string {
  const types = keyType.kind === 'composite' ? keyType.parts : [keyType];
  const parts = splitKey(keyType, key).map((part, at) => valueText(types[at] ?? keyType, part));
  return `${nameText(entity)}(${parts.join(', ')})`;
}

/** A value in wire form as an expression of the notation. */
export function valueText(type: ValueType, value: Wire): string {
  if (value === null) return 'null';
  switch (type.kind) {
    case 'integer':
    case 'bigint':
    case 'decimal':
    case 'boolean':
      return String(value);
    case 'real':
      return digitsOf(String(value));
    case 'json':
      return textExpression(JSON.stringify(value));
    default:
      return textExpression(String(value));
  }
}

/** A number without an exponent, which the notation has none of. */
function digitsOf(written: string): string {
  const [, sign = '', first = '', rest = '', power] = /^(-?)(\d)(?:\.(\d+))?e([+-]\d+)$/.exec(written) ?? [];
  if (power === undefined) return written;
  const digits = first + rest;
  const places = Number(power) + 1;
  if (places <= 0) return `${sign}0.${'0'.repeat(-places)}${digits}`;
  return `${sign}${digits.padEnd(places, '0')}`;
}

function enteredText(entered: Entered): string {
  switch (entered.kind) {
    case 'nothing':
      return 'null';
    case 'row':
      return rowText(entered.row);
    case 'named row':
      return entered.text;
    case 'value': {
      const parsed = parseWire(entered.type, entered.text);
      // What fits no type is told by whoever reads the command.
      return parsed.ok ? valueText(entered.type, parsed.value) : quoteText(entered.text);
    }
  }
}

/** ` with name 'Ines', branch Branch(1)`; empty where nothing is put in. */
function withText(entries: readonly Entry[]): string {
  return entries.length === 0 ? '' : ` with ${assignmentsText(entries)}`;
}

/** `name 'Ines', branch Branch(1)`. */
export function assignmentsText(entries: readonly Entry[]): string {
  return entries.map(({ name, entered }) => `${nameText(name)} ${enteredText(entered)}`).join(', ');
}

/** The command that changes a row. */
export function updateText(row: RowName, entries: readonly Entry[]): string {
  return `update ${rowText(row)}${withText(entries)}`;
}

/** The command that makes a row: of an entity, or through a role of another row, which fills what points back. */
export function createText(of: string | { readonly owner: RowName; readonly role: string }, entries: readonly Entry[]): string {
  const target = typeof of === 'string' ? nameText(of) : `${rowText(of.owner)}.${nameText(of.role)}`;
  return `create ${target}${withText(entries)}`;
}

/** The command that removes rows: some by their keys, or those of a condition. */
export function deleteText(rows: readonly RowName[] | { readonly entity: string; readonly where: string }): string {
  if (!('where' in rows)) return rows.map((row) => `delete ${rowText(row)}`).join('\n');
  return `delete ${nameText(rows.entity)}[${rows.where.replace(/\s*\n\s*/g, ' ')}]`;
}

/** The command that links rows to one over a role, each with the same fields of the pivot; or takes them apart. */
export function linkText(
  how: 'link' | 'unlink',
  owner: RowName,
  role: string,
  others: readonly RowName[],
  fields: readonly Entry[] = [],
): string {
  return linkNamedText(how, rowText(owner), role, others.map(rowText), fields);
}

/** The same of rows as the notation names them. */
export function linkNamedText(
  how: 'link' | 'unlink',
  owner: string,
  role: string,
  others: readonly string[],
  fields: readonly Entry[] = [],
): string {
  const way = how === 'link' ? 'to' : 'from';
  return `${how} ${owner}.${nameText(role)} ${way} ${others.join(', ')}${withText(fields)}`;
}

/** The command that changes a row as the notation names it. */
export function updateNamedText(row: string, entries: readonly Entry[]): string {
  return `update ${row}${withText(entries)}`;
}

/** The command that makes a row, or changes the one that has the values of a unique already. */
export function createOrUpdateText(entity: string, unique: readonly Entry[], entries: readonly Entry[]): string {
  const condition = unique.map(({ name, entered }) => `${nameText(name)} = ${enteredText(entered)}`).join(' and ');
  return `create or update ${nameText(entity)}[${condition}]${withText(entries)}`;
}
