import { keyFrom, nameText, valueText } from '../edits/index.js';
import { type AnswerRow, keyOfRow } from '../load/index.js';
import { type Field, type Order, someExpression } from '../model/index.js';
import type { ValueType, Wire } from '../values/index.js';
import { refuse } from './fault.js';
import type { Reading } from './reading.js';
import type { Resources, ResourceType } from './resources.js';
import { type SortPath, sortPaths } from './sort.js';

/** A term of an order that rows stand behind each other by. */
export interface CursorTerm {
  /** What it is of a row, as the notation has it. */
  readonly text: string;
  readonly type: ValueType;
  /** Every row has it. */
  readonly required: boolean;
  readonly descending: boolean;
  /** The row’s own field that it is; null where it lies behind roles. */
  readonly own: Field | null;
}

/**
 * The terms of an order over stored fields, of the rows and of what they know one of, with the key’s behind them, so that every row has a
 * place of its own.
 *
 * @param ordered how rows are ordered where nothing is asked for
 * @throws Faulty where it is ordered by something else: then there are pages by number
 */
export function cursorTerms(
  resources: Resources,
  type: ResourceType,
  sort: Reading['sort'],
  ordered: readonly Order[],
): readonly CursorTerm[] {
  const { entity } = type;
  const stated =
    sort.length > 0
      ? sort.flatMap(({ path, descending }) => sortPaths(resources, type, path).map((one) => sortedTerm(one, descending)))
      : ordered.map((term) => ownTerm(ownField(entity.fields, term) ?? refuseOrder(), term.descending));
  const rest = entity.key.fields.filter((field) => !stated.some(({ own }) => own === field));
  return [...stated, ...rest.map((field) => ownTerm(field, false))];
}

function refuseOrder(): never {
  return refuse(400, 'Behind a cursor stands what is sorted by stored attributes. Say by which, or ask for pages by number.', {
    parameter: 'sort',
  });
}

function ownTerm(field: Field, descending: boolean): CursorTerm {
  // A cursor tells what it stands at, which nobody is told of a hidden field.
  if (field.hidden) return refuseOrder();
  const { name, type, required } = field;
  return { text: nameText(name), type, required, descending, own: field };
}

function sortedTerm({ text, field, depth }: SortPath, descending: boolean): CursorTerm {
  if (field === null) return refuseOrder();
  if (depth === 0) return ownTerm(field, descending);
  // Behind a role there may be no row, or none within reach.
  return { text, type: field.type, required: false, descending, own: null };
}

function ownField(fields: readonly Field[], { expression }: Order): Field | null {
  if (expression.kind !== 'field' || expression.hops.length > 0) return null;
  if (someExpression(expression, ({ kind }) => kind === 'me')) return null;
  return fields.find(({ name }) => name === expression.field) ?? null;
}

/**
 * The cursor of a row: what stands behind it is asked for by this.
 *
 * @param behind the values of the terms that lie behind roles, in their order
 */
export function cursorOf(terms: readonly CursorTerm[], row: AnswerRow, behind: readonly unknown[]): string {
  const left = [...behind];
  const values = terms.map(({ own }) => (own === null ? left.shift() : row[own.name]) ?? null);
  return Array.from(new TextEncoder().encode(JSON.stringify(values)), (byte) => byte.toString(16).padStart(2, '0')).join('');
}

/** The condition on rows that stand behind the one of a cursor. @throws Faulty where it is none */
export function after(terms: readonly CursorTerm[], cursor: string): string {
  const values = valuesIn(cursor, terms);
  const ways = terms.flatMap((term, at) => {
    const behind = behindIn(term, values[at] ?? null);
    if (behind === null) return [];
    const same = terms.slice(0, at).map((before, place) => sameIn(before, values[place] ?? null));
    return [`(${[...same, behind].join(' and ')})`];
  });
  return ways.length === 0 ? 'false' : ways.join(' or ');
}

function valuesIn(cursor: string, terms: readonly CursorTerm[]): readonly Wire[] {
  const no = (): never => refuse(400, 'This is no cursor of this collection and order.', { parameter: 'page[after]' });
  if (!/^([0-9a-f]{2})+$/.test(cursor) || cursor.length > 20_000) return no();
  let parsed: unknown;
  try {
    const bytes = Uint8Array.from(cursor.match(/../g) ?? [], (pair) => Number.parseInt(pair, 16));
    parsed = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
  } catch {
    return no();
  }
  if (!Array.isArray(parsed) || parsed.length !== terms.length) return no();
  return terms.map(({ type }, at): Wire => {
    const value: unknown = parsed[at];
    if (value === null) return null;
    if (typeof value === 'object') return no();
    return keyFrom(type, String(value)) ?? no();
  });
}

function sameIn({ text, type }: CursorTerm, value: Wire): string {
  return value === null ? `${text} is null` : `${text} = ${valueText(type, value)}`;
}

/** That a row stands behind a value in one term: nulls come first, and last where it descends. Null where none can. */
function behindIn({ text, type, required, descending }: CursorTerm, value: Wire): string | null {
  if (value === null) return descending ? null : `${text} is not null`;
  const written = valueText(type, value);
  if (!descending) return `${text} > ${written}`;
  return required ? `${text} < ${written}` : `(${text} < ${written} or ${text} is null)`;
}

/** The id of a row: its key, of several parts as their list. */
export function idOf({ entity }: Pick<ResourceType, 'entity'>, row: AnswerRow): string {
  return String(keyOfRow(entity, row));
}
