import { keyFrom, nameText, valueText } from '../edits/index.js';
import type { AnswerRow } from '../load/index.js';
import { type Field, type Order, someExpression } from '../model/index.js';
import { joinKey, type Wire } from '../values/index.js';
import { refuse } from './fault.js';
import type { Reading } from './reading.js';
import type { ResourceType } from './resources.js';

/** A term of an order that rows are found behind each other by. */
interface Term {
  readonly field: Field;
  readonly descending: boolean;
}

/**
 * The terms of an order over stored fields of the rows alone, the key’s behind them, so that every row has a place of its own.
 *
 * @throws Faulty where it is ordered by something else: then there are pages by number
 */
function termsOf({ entity }: ResourceType, sort: Reading['sort']): readonly Term[] {
  const no = (): never =>
    refuse(400, 'Behind a cursor stands what is sorted by stored attributes of the resource itself. Ask for pages by number.', {
      parameter: 'sort',
    });
  const stated =
    sort.length > 0
      ? sort.map(({ path: [name = '', ...rest], descending }): Term => {
          const wanted = name === 'id' ? entity.key.fields[0] : entity.fields.find((field) => field.name === name);
          return rest.length > 0 || wanted === undefined ? no() : { field: wanted, descending };
        })
      : entity.orderBy.map((term): Term => ({ field: ownField(entity.fields, term) ?? no(), descending: term.descending }));
  const rest = entity.key.fields.filter((field) => !stated.some((term) => term.field === field));
  return [...stated, ...rest.map((field) => ({ field, descending: false }))];
}

function ownField(fields: readonly Field[], { expression }: Order): Field | null {
  if (expression.kind !== 'field' || expression.hops.length > 0) return null;
  if (someExpression(expression, ({ kind }) => kind === 'me')) return null;
  return fields.find(({ name }) => name === expression.field) ?? null;
}

/** The cursor of a row: what stands behind it is asked for by this. */
export function cursorOf(type: ResourceType, sort: Reading['sort'], row: AnswerRow): string {
  const values = termsOf(type, sort).map(({ field }) => row[field.name] ?? null);
  return Array.from(new TextEncoder().encode(JSON.stringify(values)), (byte) => byte.toString(16).padStart(2, '0')).join('');
}

/** The condition on rows that stand behind the one of a cursor. @throws Faulty where it is none */
export function after(type: ResourceType, sort: Reading['sort'], cursor: string): string {
  const terms = termsOf(type, sort);
  const values = valuesIn(cursor, terms);
  const ways = terms.flatMap((term, at) => {
    const behind = behindIn(term, values[at] ?? null);
    if (behind === null) return [];
    const same = terms.slice(0, at).map((before, place) => sameIn(before, values[place] ?? null));
    return [`(${[...same, behind].join(' and ')})`];
  });
  return ways.length === 0 ? 'false' : ways.join(' or ');
}

function valuesIn(cursor: string, terms: readonly Term[]): readonly Wire[] {
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
  return terms.map(({ field }, at): Wire => {
    const value: unknown = parsed[at];
    if (value === null) return null;
    if (typeof value === 'object') return no();
    return keyFrom(field.type, String(value)) ?? no();
  });
}

function sameIn({ field }: Term, value: Wire): string {
  return value === null ? `${nameText(field.name)} is null` : `${nameText(field.name)} = ${valueText(field.type, value)}`;
}

/** That a row stands behind a value in one term: nulls come first, and last where it descends. Null where none can. */
function behindIn({ field, descending }: Term, value: Wire): string | null {
  const name = nameText(field.name);
  if (value === null) return descending ? null : `${name} is not null`;
  const written = valueText(field.type, value);
  if (!descending) return `${name} > ${written}`;
  return field.required ? `${name} < ${written}` : `(${name} < ${written} or ${name} is null)`;
}

/** The id of a row: its key, of several parts as their list. */
export function idOf({ entity: { key } }: Pick<ResourceType, 'entity'>, row: AnswerRow): string {
  return String(
    joinKey(
      key.type,
      key.fields.map(({ name }) => (row[name] ?? null) as Wire),
    ),
  );
}
