import { createHash } from 'node:crypto';
import {
  Compound,
  collectionTerms,
  collectionText,
  documentJson,
  type Included,
  type Place,
  type Reading,
  type Relationship,
  type ResourceType,
  readingOf,
  refuse,
  refuseOthers,
  relatedTerms,
  relatedText,
  resourceText,
  type Writing,
} from '../core/live/index.js';
import type { AnswerRow } from '../core/load/index.js';
import type { Wire } from '../core/values/index.js';
import { asked, askedOwn, type Found, MOST_ROWS } from './live-asks.js';
import { addressOf, collectionLinks, nextAddress } from './live-pages.js';
import type { Answering, LiveAnswer } from './live-request.js';

/** Answers a request that reads. @throws Faulty */
export async function answerReading(answering: Answering, place: Place, reading: Reading): Promise<LiveAnswer> {
  switch (place.kind) {
    case 'index':
      return index(answering);
    case 'operations':
      return refuse(405, 'Operations are posted.');
    case 'collection':
      refuseOthers(reading);
      return collection(answering, place.type, reading);
    case 'resource':
      refuseOthers(reading);
      return one(answering, place.type, place.key, reading);
    case 'related':
    case 'linkage':
      refuseOthers(reading);
      return behind(answering, place, reading);
    case 'saved':
      return saved(answering, place.query.name ?? '', reading);
  }
}

/** What the endpoint has: its collections and its saved queries, as links. */
function index({ resources, request: { base }, live }: Answering): LiveAnswer {
  const collections = Array.from(resources.byName.keys(), (name) => [name, `${base}/${name}`] as const);
  const queries = Array.from(live.design.model.queries.keys(), (name) => [`queries/${name}`, `${base}/queries/${name}`] as const);
  const links = { self: base, ...Object.fromEntries([...collections, ...queries]) };
  return ok(documentJson({ data: null, links, meta: { title: live.design.model.title } }));
}

async function collection(answering: Answering, type: ResourceType, reading: Reading): Promise<LiveAnswer> {
  const { live, resources } = answering;
  const query = collectionText(live.design.model, resources, type, reading);
  const found = await askedOwn(answering, query, reading.total);
  const { size } = reading.page;
  const rows = found.rows.slice(0, size);
  const compound = new Compound(writingOf(answering, reading));
  const data = compound.primary(rows, type.entity.name, query.included);
  const last = rows.at(-1);
  const links = await collectionLinks(answering, reading, {
    terms: () => collectionTerms(resources, type, reading),
    last: found.rows.length > size && last !== undefined ? { row: last, type } : null,
    total: found.total,
  });
  return ok(documentOf({ data: compound.list(data), compound, links, reading, found }));
}

/** One resource; with the tag of what it is told as. */
async function one(answering: Answering, type: ResourceType, key: Wire, reading: Reading): Promise<LiveAnswer> {
  const found = await resourceIn(answering, type, key, reading);
  if (found === null) return refuse(404, `There is no resource of ${type.name} with this id.`);
  const { tag } = found;
  const headers = { etag: tag };
  const { ifNoneMatch } = answering.request;
  if (ifNoneMatch !== null && names(ifNoneMatch, tag)) return { status: 304, headers, body: '' };
  return { status: 200, headers, body: found.body };
}

/** A resource as it is told. */
export interface FoundResource {
  /** The document of it, and the resource alone, as JSON. */
  readonly body: string;
  readonly data: string;
  /** Where it is. */
  readonly address: string;
  readonly tag: string;
}

/** A resource, and its tag; null where there is none within reach. */
export async function resourceIn(
  answering: Answering,
  type: ResourceType,
  key: Wire,
  reading: Reading,
): Promise<FoundResource | null> {
  const { live, resources } = answering;
  const query = resourceText(live.design.model, resources, type, key, reading);
  const found = await askedOwn(answering, query);
  const compound = new Compound(writingOf(answering, reading));
  const [resource] = compound.primary(found.rows, type.entity.name, query.included);
  if (resource === undefined) return null;
  const data = compound.one(resource);
  const address = [answering.request.base, ...[resource.type.name, resource.id].map(encodeURIComponent)].join('/');
  const body = documentOf({ data, compound, links: { self: address }, reading, found });
  // What is told of the same resource with more along is another representation, and has another tag (RFC 9110, 8.8.3).
  const tag = `"${createHash('sha256').update(body).digest('base64url').slice(0, 27)}"`;
  return { body, data, address, tag };
}

/** Whether a list of tags names one (RFC 9110, 13.1.1). */
export function names(list: string, tag: string): boolean {
  return list.split(',').some((one) => one.trim() === '*' || one.trim() === tag);
}

async function behind(
  answering: Answering,
  { kind, type, key, over }: Extract<Place, { kind: 'related' | 'linkage' }>,
  reading: Reading,
): Promise<LiveAnswer> {
  const { live, resources } = answering;
  const query = relatedText(live.design.model, resources, type, key, over, reading);
  const found = await askedOwn(answering, query);
  const [owner] = found.rows;
  if (owner === undefined) return refuse(404, `There is no resource of ${type.name} with this id.`);
  const compound = new Compound(writingOf(answering, reading));
  const there = owner[over.role.name];
  const self = addressOf(answering);
  const { page } = reading;
  const from = page.kind === 'number' ? (page.number - 1) * page.size : 0;
  const until = from + page.size;
  if (over.many && until > MOST_ROWS)
    refuse(
      400,
      `By number no further than ${MOST_ROWS.toLocaleString('en')} are gone over a relationship. Begin with page[after]= and follow next.`,
      { parameter: 'page[number]' },
    );
  const rows = Array.isArray(there) ? (there as readonly AnswerRow[]) : [];
  const isHidden = typeof there === 'object' && there !== null && 'hidden' in there;
  const meta = isHidden ? { hidden: true } : {};
  const last = rows[until - 1];
  const only = over.targets.flatMap((name) => resources.byEntity.get(name) ?? [])[0];
  const next: Readonly<Record<string, string>> =
    over.many && rows.length > until && last !== undefined && only !== undefined
      ? { next: await nextAddress(answering, reading, () => relatedTerms(resources, over, reading), { row: last, type: only }) }
      : {};
  const [along] = query.included;
  if (along === undefined) throw new Error('what is behind a relationship is loaded');
  if (kind === 'linkage') {
    const row = over.many ? { ...owner, [over.role.name]: rows.slice(from, until) } : owner;
    const related = self.replace('/relationships/', '/').replace(/\?.*$/, '');
    return ok(documentJson({ data: compound.linkage(row, along), links: { self, related, ...next }, meta }));
  }
  const [target = ''] = over.targets;
  const one = there === null || there === undefined || isHidden ? [] : [there as AnswerRow];
  const told = compound.primary(over.many ? rows.slice(from, until) : one, target, along.below);
  const [first] = told;
  const data = over.many ? compound.list(told) : first === undefined ? 'null' : compound.one(first);
  return ok(documentOf({ data, compound, links: { self, ...next }, reading, found, meta }));
}

/** The rows of a saved query: resources, or lines of what it shows. */
async function saved(answering: Answering, name: string, reading: Reading): Promise<LiveAnswer> {
  for (const [parameter, given] of [
    ['include', reading.include.length],
    ['sort', reading.sort.length],
    ['filter', reading.filter === null ? reading.equal.size : 1],
  ] as const)
    if (given > 0)
      refuse(400, `A saved query says itself what it gives, and in what order: it has no ${parameter}.`, { parameter });
  const paged = answering.request.parameters.find(([parameter]) => parameter.startsWith('page['));
  if (paged !== undefined) refuse(400, 'A saved query is told whole: it has no pages.', { parameter: paged[0] });
  const query = answering.live.design.model.queries.get(name);
  const known = new Set(query?.parameters.map((parameter) => parameter.name));
  for (const parameter of reading.others.keys())
    if (!known.has(parameter)) refuse(400, `The saved query ${name} has no parameter ${parameter}.`, { parameter });
  const found = await asked(answering, { kind: 'saved', name }, Object.fromEntries(reading.others));
  const links = { self: addressOf(answering) };
  const tells = found.answer.flat || found.answer.cardinality === 'count' || found.answer.cardinality === 'exists';
  if (tells || query === undefined) {
    const data = JSON.stringify(found.rows.map((row, at) => ({ type: name, id: String(at + 1), attributes: row })));
    return ok(documentJson({ data, links, meta: cutOf(found) }));
  }
  const compound = new Compound(writingOf(answering, reading));
  const included = loadedBy(answering, query.entity, query.loads);
  const data = compound.list(compound.primary(found.rows, found.answer.entity, included));
  return ok(documentOf({ data, compound, links, reading, found }));
}

/** The relationships that a saved query loads. */
function loadedBy(
  { resources }: Answering,
  entity: string,
  loads: readonly { readonly role: { readonly name: string; readonly target: string }; readonly loads: readonly unknown[] }[],
): readonly Included[] {
  type Loads = typeof loads;
  const type = resources.byEntity.get(entity);
  const seen = new Set<string>();
  return loads.flatMap(({ role, loads: below }) => {
    const over = type?.relationships.find((one) => one.role.name === role.name);
    if (over === undefined || seen.has(role.name)) return [];
    seen.add(role.name);
    return [{ over, below: loadedBy({ resources } as Answering, role.target, below as Loads) }];
  });
}

function writingOf({ live, resources, request }: Answering, { fields }: Reading): Writing {
  for (const name of fields.keys())
    if (!resources.byName.has(name)) refuse(400, `There are no resources of ${name}.`, { parameter: `fields[${name}]` });
  for (const [name, members] of fields)
    for (const member of members) {
      const type = resources.byName.get(name);
      const has =
        type?.attributes.some((one) => one.member === member) || type?.relationships.some((one) => one.member === member);
      if (has !== true) refuse(400, `Resources of ${name} have no ${member}.`, { parameter: `fields[${name}]` });
    }
  return { model: live.design.model, resources, base: request.base, fields };
}

interface Told {
  /** As JSON. */
  readonly data: string;
  readonly compound: Compound;
  readonly links: Readonly<Record<string, string>>;
  readonly reading: Reading;
  readonly found: Found;
  readonly meta?: Readonly<Record<string, unknown>>;
}

function documentOf({ data, compound, links, reading, found, meta = {} }: Told): string {
  const total = found.total === null ? {} : { total: found.total };
  const included = compound.included ?? (reading.include.length > 0 ? '[]' : null);
  return documentJson({ data, included, links, meta: { ...total, ...cutOf(found), ...meta } });
}

/** Rows behind the most that one level has are left out, which whoever asks has to know. */
function cutOf({ answer: { cuts } }: Found): Readonly<Record<string, unknown>> {
  return cuts.length === 0 ? {} : { cut: cuts.map(({ path }) => path) };
}

function ok(body: string): LiveAnswer {
  return { status: 200, headers: {}, body };
}

/** The resources behind a role of a row to many, as whoever asks sees them. */
export async function behindRole(
  answering: Answering,
  type: ResourceType,
  key: Wire,
  over: Relationship,
): Promise<readonly { readonly type: ResourceType; readonly id: string }[]> {
  const reading = readingOf([['include', over.member]]);
  const { included, ...query } = resourceText(answering.live.design.model, answering.resources, type, key, reading);
  const { rows } = await askedOwn(answering, { ...query, included });
  const [row] = rows;
  const [along] = included;
  if (row === undefined || along === undefined) return [];
  return new Compound(writingOf(answering, reading)).identifiers(row, along);
}
