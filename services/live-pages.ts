import { type CursorTerm, cursorOf, placeText, type Reading, type ResourceType } from '../core/live/index.js';
import type { AnswerRow } from '../core/load/index.js';
import { askedOwn } from './live-asks.js';
import type { Answering } from './live-request.js';

type Links = Readonly<Record<string, string>>;

/** The last row of a page that others stand behind. */
export interface LastRow {
  readonly row: AnswerRow;
  readonly type: ResourceType;
}

/** The address that was asked, with other parameters of its page where some are given. */
export function addressOf(
  { request: { base, parts, parameters } }: Answering,
  page: readonly (readonly [string, string])[] = [],
): string {
  const path = [base, ...parts.map(encodeURIComponent)].join('/');
  const changed = new Set(page.map(([name]) => name));
  const all = page.length === 0 ? parameters : [...parameters.filter(([name]) => !changed.has(name)), ...page];
  const query = all.map(([name, value]) => `${encodeURIComponent(name)}=${encodeURIComponent(value)}`).join('&');
  return query === '' ? path : `${path}?${query}`;
}

/** The links of a page of a collection to those around it (JSON:API 1.1, “Pagination”). */
export async function collectionLinks(
  answering: Answering,
  reading: Reading,
  { terms, last, total }: { terms(): readonly CursorTerm[]; readonly last: LastRow | null; readonly total: number | null },
): Promise<Links> {
  const { page } = reading;
  const self = addressOf(answering);
  const next: Links = last === null ? {} : { next: await nextAddress(answering, reading, terms, last) };
  if (page.kind === 'after') return { self, ...next };
  const to = (number: number) => numberAddress(answering, page.size, number);
  return {
    self,
    first: to(1),
    ...(page.number > 1 ? { prev: to(page.number - 1) } : {}),
    ...next,
    ...(total === null ? {} : { last: to(Math.max(1, Math.ceil(total / page.size))) }),
  };
}

/** The address of the page behind this one: by its number, or behind the cursor of its last row. */
export async function nextAddress(
  answering: Answering,
  { page }: Reading,
  terms: () => readonly CursorTerm[],
  last: LastRow,
): Promise<string> {
  if (page.kind === 'number') return numberAddress(answering, page.size, page.number + 1);
  const all = terms();
  return addressOf(answering, [['page[after]', cursorOf(all, last.row, await placeOf(answering, all, last))]]);
}

/** At which values a row stands, as far as they lie behind roles: they are no part of what was loaded. */
async function placeOf(answering: Answering, terms: readonly CursorTerm[], { row, type }: LastRow): Promise<readonly unknown[]> {
  const text = placeText(type, row, terms);
  if (text === null) return [];
  const { rows } = await askedOwn(answering, { text, parameters: {}, included: [] });
  // What is out of reach has no place: it is ordered like nothing.
  return Object.values(rows[0] ?? {}).map((value) => (typeof value === 'object' ? null : value));
}

function numberAddress(answering: Answering, size: number, number: number): string {
  return addressOf(answering, [
    ['page[number]', String(number)],
    ['page[size]', String(size)],
  ]);
}
