import type { Parameters } from './address.js';
import { refuse } from './fault.js';

/** Which of the rows are wanted: a page by its number, or those behind a row. */
export type Page =
  | { readonly kind: 'number'; readonly size: number; readonly number: number }
  /** Behind the row that a cursor names; null for the first. */
  | { readonly kind: 'after'; readonly size: number; readonly cursor: string | null };

/** What a request asks of resources beyond which they are (JSON:API 1.1, “Fetching Data”). */
export interface Reading {
  /** Paths of relationships whose resources are told along. */
  readonly include: readonly (readonly string[])[];
  /** The members that resources of a type are told with; a type that is missing is told whole. */
  readonly fields: ReadonlyMap<string, ReadonlySet<string>>;
  readonly sort: readonly { readonly path: readonly string[]; readonly descending: boolean }[];
  /** A condition of the notation; null for none. */
  readonly filter: string | null;
  /** Members with the values of which they have one. */
  readonly equal: ReadonlyMap<string, readonly string[]>;
  readonly page: Page;
  /** Whether it is told how many there are in all. */
  readonly total: boolean;
  /** Parameters that are none of these: those of a saved query. */
  readonly others: ReadonlyMap<string, string>;
}

export const PAGE_SIZE = 50;
export const MOST_PAGE_SIZE = 500;
/** As many pages by number as a request can go to; behind them by cursors. */
const MOST_NUMBER = 1_000_000;
const DEEPEST_INCLUDE = 8;

/** Reads the parameters of an address. @throws Faulty where one is none that is known, or says what cannot be */
export function readingOf(parameters: Parameters): Reading {
  const fields = new Map<string, ReadonlySet<string>>();
  const equal = new Map<string, string[]>();
  const others = new Map<string, string>();
  const pages = new Map<string, string>();
  let include: Reading['include'] = [];
  let sort: Reading['sort'] = [];
  let filter: string | null = null;
  for (const [name, value] of parameters) {
    const [, family = name, member] = /^(\w+)\[([^\][]*)\]$/.exec(name) ?? [];
    if (name === 'include') include = listOf(value).map((path) => pathOf(path, name));
    else if (name === 'sort')
      sort = listOf(value).map((term) => ({ path: pathOf(term.replace(/^-/, ''), name), descending: term.startsWith('-') }));
    else if (name === 'filter') filter = filter === null ? value : `(${filter}) and (${value})`;
    else if (family === 'fields' && member !== undefined) fields.set(member, new Set(listOf(value)));
    else if (family === 'filter' && member !== undefined) equal.set(member, [...(equal.get(member) ?? []), value]);
    else if (family === 'page' && member !== undefined) pages.set(member, value);
    else others.set(name, value);
  }
  const total = pages.get('total');
  pages.delete('total');
  if (total !== undefined && total !== 'true' && total !== 'false')
    refuse(400, 'page[total] is true or false.', { parameter: 'page[total]' });
  return { include, fields, sort, filter, equal, page: pageOf(pages), total: total === 'true', others };
}

/** @throws Faulty where there are any, and none is asked for */
export function refuseOthers({ others }: Reading): void {
  const [first] = others.keys();
  if (first !== undefined) refuse(400, `There is no parameter ${first}.`, { parameter: first });
}

function listOf(value: string): readonly string[] {
  return value
    .split(',')
    .map((part) => part.trim())
    .filter((part) => part !== '');
}

function pathOf(path: string, parameter: string): readonly string[] {
  const parts = path.split('.');
  if (parts.some((part) => part === '')) refuse(400, `“${path}” is no path.`, { parameter });
  if (parts.length > DEEPEST_INCLUDE)
    refuse(400, `“${path}” goes too deep: ${DEEPEST_INCLUDE} steps are the most.`, { parameter });
  return parts;
}

function pageOf(given: ReadonlyMap<string, string>): Page {
  for (const name of given.keys())
    if (name !== 'size' && name !== 'number' && name !== 'after')
      refuse(400, `There is no parameter page[${name}].`, { parameter: `page[${name}]` });
  const whole = (name: string, otherwise: number, most: number): number => {
    const written = given.get(name);
    if (written === undefined) return otherwise;
    const value = /^\d{1,9}$/.test(written) ? Number(written) : 0;
    return value >= 1 && value <= most
      ? value
      : refuse(400, `page[${name}] is a number from 1 to ${most}.`, { parameter: `page[${name}]` });
  };
  const size = whole('size', PAGE_SIZE, MOST_PAGE_SIZE);
  const after = given.get('after');
  if (after === undefined) return { kind: 'number', size, number: whole('number', 1, MOST_NUMBER) };
  if (given.has('number'))
    return refuse(400, 'A page is asked for by its number, or behind a cursor.', { parameter: 'page[after]' });
  return { kind: 'after', size, cursor: after === '' ? null : after };
}
