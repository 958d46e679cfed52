import { createText, deleteText, type Entry, linkText, type RowName, updateText } from '../core/edits/index.js';
import {
  BodyReader,
  escaped,
  Faulty,
  fault,
  type Given,
  type LiveFault,
  type Named,
  type Place,
  type Relationship,
  type ResourceType,
  readingOf,
  refuse,
} from '../core/live/index.js';
import type { Wire } from '../core/values/index.js';
import type { DoOutcome } from './do-commands.js';
import { names, resourceIn } from './live-reads.js';
import type { Answering, LiveAnswer } from './live-request.js';
import { uniqueOf } from './refused-for.js';
import { whySeen } from './why-seen.js';

const NOTHING: LiveAnswer = { status: 204, headers: {}, document: null };

/** Answers a request that writes. @throws Faulty */
export async function answerWriting(answering: Answering, place: Place): Promise<LiveAnswer> {
  const { method } = answering.request;
  switch (place.kind) {
    case 'collection':
      if (method === 'POST') return create(answering, place.type);
      break;
    case 'resource':
      if (method === 'PATCH') return update(answering, place.type, place.key);
      if (method === 'DELETE') return remove(answering, place.type, place.key);
      break;
    case 'related':
      if (method === 'POST') return createBehind(answering, place);
      break;
    case 'linkage':
      if (method === 'PATCH' || method === 'POST' || method === 'DELETE') return changeLinkage(answering, place);
      break;
    case 'index':
    case 'operations':
    case 'saved':
      break;
  }
  return refuse(405, `${method} is not done here.`);
}

function readerOf({ live, resources }: Answering): BodyReader {
  return new BodyReader(live.design.model, resources);
}

function refuseGiven({ entity, name }: ResourceType): void {
  if (entity.given) refuse(403, `${name} are kept by somebody else: they are read here alone.`);
}

async function create(answering: Answering, type: ResourceType): Promise<LiveAnswer> {
  refuseGiven(type);
  const given = readerOf(answering).resource(answering.request.body, type, true);
  const { name } = given.type.entity;
  const text = creating(given, (entries) => createText(name, entries));
  return made(answering, given, await carriedOut(answering, text, given, null));
}

/** A new resource behind a role of another, by which its owner is set. */
async function createBehind(answering: Answering, { type, key, over }: Extract<Place, { kind: 'related' }>): Promise<LiveAnswer> {
  const [target] = over.targets.flatMap((name) => answering.resources.byEntity.get(name) ?? []);
  if (!over.many || over.readOnly || target === undefined || over.targets.length > 1)
    return refuse(405, `Nothing is made over ${over.member}: make it in its own collection.`);
  refuseGiven(target);
  await thereOr404(answering, type, key);
  const given = readerOf(answering).resource(answering.request.body, target, true);
  const owner = rowOf(type, key);
  const text = creating(given, (entries) => createText({ owner, role: over.role.name }, entries));
  return made(answering, given, await carriedOut(answering, text, given, null));
}

/** The commands that make a resource, and link it to others. */
function creating({ type, id, entries, linked }: Given, createWith: (entries: readonly Entry[]) => string): string {
  const keyed = id === null ? [] : keyEntries(type, id);
  const known = new Set(entries.map(({ name }) => name));
  const text = createWith([...keyed.filter(({ name }) => !known.has(name)), ...entries]);
  const links = linked.filter(({ to }) => to.length > 0);
  if (links.length === 0) return text;
  const lines = links.flatMap(({ over, to }) => linkLines('link', `${type.entity.name}(made)`, over, to));
  return [`made = ${text}`, ...lines].join('\n');
}

function keyEntries({ entity: { key } }: ResourceType, id: Wire): readonly Entry[] {
  const [only, ...more] = key.fields;
  if (only === undefined || more.length > 0 || key.byRow) return [];
  return [{ name: only.name, entered: { kind: 'value', type: only.type, text: String(id) } }];
}

/** The commands that link an owner to others, or take them apart: one for each that says something of its pair. */
function linkLines(
  how: 'link' | 'unlink',
  owner: RowName | string,
  { role }: Relationship,
  to: readonly Named[],
): readonly string[] {
  return to.map((named) => {
    const pair = how === 'link' ? named.pair : [];
    const stand: RowName = typeof owner === 'string' ? { entity: 'made', keyType: { kind: 'integer' }, key: 1 } : owner;
    const text = linkText(how, stand, role.name, [rowOf(named.type, named.key)], pair);
    return typeof owner === 'string' ? text.replace('made(1)', owner) : text;
  });
}

/** A resource that was made, as whoever made it sees it. */
async function made(answering: Answering, { type }: Given, outcome: Extract<DoOutcome, { ok: true }>): Promise<LiveAnswer> {
  const [row] = outcome.carried.lines[0]?.rows ?? [];
  if (row === undefined) throw new Error('a row that was made is told');
  const own = answering.resources.byEntity.get(row.entity) ?? type;
  const found = await resourceIn(answering, own, row.key, readingOf(answering.request.parameters));
  // Who makes what they may not see is told that it is made, and not what it is.
  if (found === null) return { status: 204, headers: {}, document: null };
  return { status: 201, headers: { location: found.resource.links.self, etag: found.tag }, document: found.document };
}

async function update(answering: Answering, type: ResourceType, key: Wire): Promise<LiveAnswer> {
  refuseGiven(type);
  await thereOr404(answering, type, key);
  const given = readerOf(answering).resource(answering.request.body, type, false);
  if (given.id === null) refuse(422, 'A resource that is changed is named by its id.', { pointer: '/data/id' });
  if (String(given.id) !== String(key)) refuse(409, 'The body names another resource than the address.', { pointer: '/data/id' });
  const row = rowOf(type, key);
  const lines = given.entries.length === 0 ? [] : [updateText(row, given.entries)];
  for (const { over, to } of given.linked) lines.push(...(await replacing(answering, type, key, over, to)));
  if (lines.length > 0) await carriedOut(answering, lines.join('\n'), given, { type, key });
  const found = await resourceIn(answering, type, key, readingOf(answering.request.parameters));
  return found === null ? NOTHING : { status: 200, headers: { etag: found.tag }, document: found.document };
}

async function remove(answering: Answering, type: ResourceType, key: Wire): Promise<LiveAnswer> {
  refuseGiven(type);
  await thereOr404(answering, type, key);
  await carriedOut(answering, deleteText([rowOf(type, key)]), null, { type, key });
  return NOTHING;
}

async function changeLinkage(
  answering: Answering,
  { type, key, over }: Extract<Place, { kind: 'linkage' }>,
): Promise<LiveAnswer> {
  if (over.readOnly) return refuse(403, `${over.member} follows from others, and is not set.`);
  await thereOr404(answering, type, key);
  const { method, body } = answering.request;
  const linkage = readerOf(answering).linkage(body, over);
  const owner = rowOf(type, key);
  const at = { type, key };
  if (!over.many) {
    if (method !== 'PATCH') return refuse(405, `${over.member} leads to one: it is set by PATCH.`);
    const named = linkage as Named | null;
    const entered = named === null ? { kind: 'nothing' as const } : { kind: 'row' as const, row: rowOf(named.type, named.key) };
    await carriedOut(answering, updateText(owner, [{ name: over.role.name, entered }]), null, at);
    return NOTHING;
  }
  const to = linkage as readonly Named[];
  const lines =
    method === 'PATCH'
      ? await replacing(answering, type, key, over, to)
      : linkLines(method === 'POST' ? 'link' : 'unlink', owner, over, to);
  if (lines.length > 0) await carriedOut(answering, lines.join('\n'), null, at);
  return NOTHING;
}

/** The commands by which these, and no others, are behind a role to many. */
async function replacing(
  answering: Answering,
  type: ResourceType,
  key: Wire,
  over: Relationship,
  to: readonly Named[],
): Promise<readonly string[]> {
  const reading = readingOf([['include', over.member]]);
  const found = await resourceIn(answering, type, key, reading);
  const data = found?.resource.relationships[over.member]?.data;
  const there = Array.isArray(data) ? data : [];
  const placeOfNamed = (named: Named) => String(named.key);
  const wanted = new Set(to.map(placeOfNamed));
  const had = new Set(there.map(({ id }) => id));
  const gone = there.flatMap(({ type: name, id }): Named[] => {
    const own = answering.resources.byName.get(name);
    return own === undefined || wanted.has(id) ? [] : [{ type: own, key: id, pair: [] }];
  });
  const owner = rowOf(type, key);
  return [
    ...linkLines('unlink', owner, over, gone),
    ...linkLines(
      'link',
      owner,
      over,
      to.filter((named) => !had.has(placeOfNamed(named)) || named.pair.length > 0),
    ),
  ];
}

function rowOf({ entity }: ResourceType, key: Wire): RowName {
  return { entity: entity.name, keyType: entity.key.type, key };
}

/** That a resource is there for whoever asks, and is what they think that it is. @throws Faulty */
async function thereOr404(answering: Answering, type: ResourceType, key: Wire): Promise<void> {
  const found = await resourceIn(answering, type, key, readingOf([]));
  if (found === null) refuse(404, `There is no resource of ${type.name} with this id.`);
  const { ifMatch } = answering.request;
  if (ifMatch !== null && !names(ifMatch, found.tag))
    refuse(412, 'The resource was changed since it was read. Read it again.', { header: 'If-Match' });
}

/**
 * Carries commands out on behalf of whoever asks.
 *
 * @param given what the body said, whose members faults are told of; null where it was a linkage, or nothing
 * @param at the resource that is changed; null where one is made
 * @throws Faulty where they are refused
 */
async function carriedOut(
  answering: Answering,
  text: string,
  given: Given | null,
  at: { readonly type: ResourceType; readonly key: Wire } | null,
): Promise<Extract<DoOutcome, { ok: true }>> {
  const { live, request, work } = answering;
  work.texts.push(text);
  const outcome = await live.write(text, request.as);
  const log = outcome.ok ? outcome.carried.log : outcome.log;
  for (const entry of log)
    work.log.push(
      entry.kind === 'read'
        ? { plain: entry.plain, milliseconds: entry.milliseconds, rows: entry.rows, values: [] }
        : {
            plain: entry.plain,
            milliseconds: entry.milliseconds,
            rows: entry.rows,
            values: entry.values.map(({ name, shown }) => `${name} = ${shown}`),
          },
    );
  if (outcome.ok) return outcome;
  throw new Faulty([await faultFor(answering, outcome, given, at)]);
}

async function faultFor(
  answering: Answering,
  outcome: Extract<DoOutcome, { ok: false }>,
  given: Given | null,
  at: { readonly type: ResourceType; readonly key: Wire } | null,
): Promise<LiveFault> {
  const words = outcome.problems
    .join(' ')
    .replace(/^Line \d+: /, '')
    .replace(/ Nothing was written\.$/, '');
  const [wrong] = outcome.findings.filter(({ weight }) => weight === 'error');
  if (wrong !== undefined) return fault(422, wrong.message, null);
  const { refusal } = outcome;
  if (refusal === null) return fault(503, 'The database did not answer. Ask again in a moment.');
  const { why } = refusal;
  switch (why.kind) {
    case 'rule':
      return fault(422, words);
    case 'constraint': {
      const source = sourceOf(answering, why.table, why.broken, given);
      if (why.broken.kind === 'unique') return fault(409, words, source);
      // What others point at stays; what points nowhere does not fit.
      if (why.broken.kind === 'key') return given === null ? fault(409, words) : fault(404, words, source);
      // The engine’s own words are for whoever keeps the database.
      return why.broken.kind === 'other'
        ? fault(422, 'A value does not fit what the database keeps.')
        : fault(422, words, source);
    }
    case 'words':
      if (why.about === 'wall') return fault(403, words);
      if (why.about === 'row')
        return at !== null && (await isKept(answering, at)) ? fault(403, 'It may be read, and not changed.') : fault(404, words);
      return fault(422, words);
  }
}

/** Whether a row that is read may not be written. */
async function isKept(
  { live, request }: Answering,
  { type, key }: { readonly type: ResourceType; readonly key: Wire },
): Promise<boolean> {
  const { entity } = type;
  const row = { kind: 'value', value: key, type: { kind: 'row', entity: entity.name }, span: { start: 0, end: 0 } } as const;
  const told = await whySeen(live, row, request.as, { signal: request.signal });
  return told.ok && told.value.seen && !told.value.changed;
}

/** The member of the body whose column a constraint is of, where it is one. */
function sourceOf(
  { live }: Answering,
  table: string,
  broken: { readonly kind: string; readonly columns: readonly string[]; readonly constraint: string },
  given: Given | null,
): LiveFault['source'] {
  if (given === null) return null;
  const { schema } = live.design;
  const known = schema.tables.find((one) => one.name.name === table);
  const unique = known === undefined ? null : uniqueOf(known, { ...broken, kind: 'unique' });
  const columns = broken.columns.length > 0 ? broken.columns : (unique?.columns ?? []);
  const [column] = columns;
  if (column === undefined) return null;
  const attribute = given.type.attributes.find(({ stored }) => stored?.column.value === column);
  if (attribute !== undefined) return { pointer: `/data/attributes/${escaped(attribute.member)}` };
  const over = given.type.relationships.find(({ role }) => {
    const [first] = 'branches' in role ? role.branches : [role];
    return first?.way.kind === 'key' && first.way.columns.includes(column);
  });
  return over === undefined ? null : { pointer: `/data/relationships/${escaped(over.member)}` };
}
