import { type Entered, updateNamedText } from '../core/edits/index.js';
import { BodyReader, type Given, type Named, type Place, type ResourceType, readingOf, refuse } from '../core/live/index.js';
import type { Wire } from '../core/values/index.js';
import { carriedOut, type Meant } from './live-carry-out.js';
import { names, resourceIn } from './live-reads.js';
import type { Answering, LiveAnswer } from './live-request.js';
import { creatingText, linkLines, type MadeWhere, replacingLines, textOf } from './live-texts.js';

const NOTHING: LiveAnswer = { status: 204, headers: {}, body: '' };

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

export function refuseGiven({ entity, name }: ResourceType): void {
  if (entity.given) refuse(403, `${name} are kept by somebody else: they are read here alone.`);
}

async function create(answering: Answering, type: ResourceType): Promise<LiveAnswer> {
  refuseGiven(type);
  const { parameters, body } = answering.request;
  const by = parameters.find(([name]) => name === 'by')?.[1];
  const given = readerOf(answering).resource(body, type, true);
  const where: MadeWhere = by === undefined ? { kind: 'collection' } : { kind: 'by', member: by };
  return made(answering, given, creatingText(given, where));
}

/** A new resource behind a role of another, by which its owner is set. */
async function createBehind(answering: Answering, { type, key, over }: Extract<Place, { kind: 'related' }>): Promise<LiveAnswer> {
  const [target] = over.targets.flatMap((name) => answering.resources.byEntity.get(name) ?? []);
  const isBelow = over.many || (!('branches' in over.role) && over.role.way.kind === 'child');
  if (!isBelow || over.readOnly || target === undefined || over.targets.length > 1)
    return refuse(405, `Nothing is made over ${over.member}: make it in its own collection.`);
  refuseGiven(target);
  await thereOr404(answering, type, key);
  const given = readerOf(answering).resource(answering.request.body, target, true);
  return made(answering, given, creatingText(given, { kind: 'behind', owner: { type, key }, role: over.role.name }));
}

/** Makes a resource, and answers with it as whoever made it sees it. */
async function made(answering: Answering, given: Given, text: string): Promise<LiveAnswer> {
  const outcome = await carriedOut(answering, text, () => ({ given, at: null, place: '' }));
  const [row] = outcome.carried.lines[0]?.rows ?? [];
  if (row === undefined) throw new Error('a row that was made is told');
  const own = answering.resources.byEntity.get(row.entity) ?? given.type;
  const parameters = answering.request.parameters.filter(([name]) => name !== 'by');
  const found = await resourceIn(answering, own, row.key, readingOf(parameters));
  // Who makes what they may not see is told that it is made, and not what it is.
  if (found === null) return NOTHING;
  const status = row.change === 'created' ? 201 : 200;
  const headers = { etag: found.tag, ...(status === 201 ? { location: found.address } : {}) };
  return { status, headers, body: found.body };
}

async function update(answering: Answering, type: ResourceType, key: Wire): Promise<LiveAnswer> {
  refuseGiven(type);
  await thereOr404(answering, type, key);
  const given = readerOf(answering).resource(answering.request.body, type, false);
  if (given.id === null) refuse(422, 'A resource that is changed is named by its id.', { pointer: '/data/id' });
  if (String(given.id) !== String(key)) refuse(409, 'The body names another resource than the address.', { pointer: '/data/id' });
  const row = textOf(type, key);
  const lines = given.entries.length === 0 ? [] : [updateNamedText(row, given.entries)];
  for (const { over, to } of given.linked) lines.push(...(await replacingLines(answering, type, key, over, to)));
  const meant: Meant = { given, at: { type, key }, place: '' };
  if (lines.length > 0) await carriedOut(answering, lines.join('\n'), () => meant);
  const found = await resourceIn(answering, type, key, readingOf(answering.request.parameters));
  return found === null ? NOTHING : { status: 200, headers: { etag: found.tag }, body: found.body };
}

async function remove(answering: Answering, type: ResourceType, key: Wire): Promise<LiveAnswer> {
  refuseGiven(type);
  await thereOr404(answering, type, key);
  await carriedOut(answering, `delete ${textOf(type, key)}`, () => ({ given: null, at: { type, key }, place: '' }));
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
  const owner = textOf(type, key);
  const meant: Meant = { given: null, at: { type, key }, place: '' };
  if (!over.many) {
    if (method !== 'PATCH') return refuse(405, `${over.member} leads to one: it is set by PATCH.`);
    const named = linkage as Named | null;
    const entered: Entered = named === null ? { kind: 'nothing' } : { kind: 'named row', text: named.text };
    await carriedOut(answering, updateNamedText(owner, [{ name: over.role.name, entered }]), () => meant);
    return NOTHING;
  }
  const to = linkage as readonly Named[];
  const lines =
    method === 'PATCH'
      ? await replacingLines(answering, type, key, over, to)
      : linkLines(method === 'POST' ? 'link' : 'unlink', owner, over, to);
  if (lines.length > 0) await carriedOut(answering, lines.join('\n'), () => meant);
  return NOTHING;
}

/** That a resource is there for whoever asks, and is what they think that it is. @throws Faulty */
export async function thereOr404(answering: Answering, type: ResourceType, key: Wire): Promise<void> {
  const found = await resourceIn(answering, type, key, readingOf([]));
  if (found === null) refuse(404, `There is no resource of ${type.name} with this id.`);
  const { ifMatch } = answering.request;
  if (ifMatch !== null && !names(ifMatch, found.tag))
    refuse(412, 'The resource was changed since it was read. Read it again.', { header: 'If-Match' });
}
