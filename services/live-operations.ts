import { type Entered, updateNamedText } from '../core/edits/index.js';
import {
  BodyReader,
  type Given,
  isObject,
  type Json,
  localName,
  type Named,
  type Relationship,
  type ResourceType,
  readingOf,
  refuse,
} from '../core/live/index.js';
import type { Wire } from '../core/values/index.js';
import { carriedOut, type Meant } from './live-carry-out.js';
import { resourceIn } from './live-reads.js';
import type { Answering, LiveAnswer } from './live-request.js';
import { creatingText, linkLines, replacingLines } from './live-texts.js';
import { refuseGiven } from './live-writes.js';

/** As many operations as one request has at most. */
const MOST = 500;

/** What an operation comes to: its commands, and what its result tells of. */
interface Planned {
  readonly lines: readonly string[];
  readonly meant: Meant;
  /** The resource that is told afterwards; null for none. Its key is known once it is made. */
  readonly tells: { readonly type: ResourceType; readonly key: Wire } | null;
}

/** Carries out several writes, all of them or none (JSON:API, “Atomic Operations”). @throws Faulty */
export async function answerOperations(answering: Answering): Promise<LiveAnswer> {
  const { body } = answering.request;
  const operations = isObject(body) ? body['atomic:operations'] : undefined;
  if (!Array.isArray(operations) || operations.length === 0)
    return refuse(422, 'The body has a list of operations.', { pointer: '/atomic:operations' });
  if (operations.length > MOST)
    return refuse(413, `A request has ${MOST} operations at most.`, { pointer: '/atomic:operations' });
  const made = new Map<string, string>();
  const planned: Planned[] = [];
  for (const [at, operation] of operations.entries())
    planned.push(await new Operation(answering, at, made).planned(isObject(operation) ? operation : {}));
  // Each line belongs to the operation that it comes from.
  const owners = planned.flatMap((one, at) => one.lines.map(() => at));
  const text = planned.flatMap(({ lines }) => lines).join('\n');
  const nothing: Meant = { given: null, at: null, place: '' };
  const outcome = text === '' ? null : await carriedOut(answering, text, (line) => planned[owners[line] ?? 0]?.meant ?? nothing);
  const results: (string | null)[] = [];
  for (const [at, { tells }] of planned.entries()) {
    const row = outcome?.carried.lines[owners.indexOf(at)]?.rows[0];
    const key = tells === null ? null : (tells.key ?? row?.key ?? null);
    const type = row === undefined ? tells?.type : (answering.resources.byEntity.get(row.entity) ?? tells?.type);
    const found = tells === null || type === undefined ? null : await resourceIn(answering, type, key, readingOf([]));
    results.push(found === null ? null : found.data);
  }
  if (results.every((data) => data === null)) return { status: 204, headers: {}, body: '' };
  return { status: 200, headers: {}, body: resultsJson(results) };
}

/** What operations came to, in their order (JSON:API, “Atomic Operations”, “Result Objects”). */
function resultsJson(results: readonly (string | null)[]): string {
  const list = results.map((data) => (data === null ? '{}' : `{"data":${data}}`)).join(',');
  return `{"jsonapi":{"version":"1.1"},"atomic:results":[${list}]}`;
}

/** One operation, by its place in the list. */
class Operation {
  readonly #at: string;
  readonly #reader: BodyReader;

  constructor(
    private readonly answering: Answering,
    private readonly number: number,
    /** The rows that operations before make, as the notation names them; what this one makes is added. */
    private readonly made: Map<string, string>,
  ) {
    const { live, resources } = answering;
    this.#at = `/atomic:operations/${number}`;
    this.#reader = new BodyReader(live.design.model, resources, this.#at, made);
  }

  #refuse(status: number, detail: string, pointer: string): never {
    return refuse(status, detail, { pointer: `${this.#at}${pointer}` });
  }

  async planned(operation: Json): Promise<Planned> {
    const { op, ref, data } = operation;
    const target = isObject(ref) ? ref : isObject(data) ? data : {};
    if (isObject(ref) && typeof ref.relationship === 'string') return this.#linkage(operation, ref, ref.relationship);
    const type = typeof target.type === 'string' ? this.answering.resources.byName.get(target.type) : undefined;
    if (type === undefined)
      return this.#refuse(422, 'An operation says the type of its resource, in its ref or in its data.', '');
    refuseGiven(type);
    switch (op) {
      case 'add':
        return this.#add(operation, type, target);
      case 'update':
        return this.#update(operation, type, target);
      case 'remove':
        return this.#remove(type, target);
      default:
        return this.#refuse(422, 'An operation is add, update or remove.', '/op');
    }
  }

  #add(operation: Json, type: ResourceType, { lid }: Json): Planned {
    const given = this.#reader.resource(operation, type, true);
    const name = `made_${this.number}`;
    if (typeof lid === 'string') this.made.set(localName(given.type, lid), `${given.type.entity.name}(${name})`);
    const lines = creatingText(given, { kind: 'collection' }, name).split('\n');
    return { lines, meant: this.#meant(given, null), tells: { type: given.type, key: null } };
  }

  async #update(operation: Json, type: ResourceType, target: Json): Promise<Planned> {
    const row = await this.#row(type, target);
    const given = this.#reader.resource(operation, type, false);
    const lines = given.entries.length === 0 ? [] : [updateNamedText(row.text, given.entries)];
    for (const { over, to } of given.linked)
      lines.push(
        ...(row.key === null
          ? linkLines('link', row.text, over, to)
          : await replacingLines(this.answering, type, row.key, over, to)),
      );
    const at = row.key === null ? null : { type, key: row.key };
    return { lines, meant: this.#meant(given, at), tells: row.key === null ? null : { type, key: row.key } };
  }

  async #remove(type: ResourceType, target: Json): Promise<Planned> {
    const row = await this.#row(type, target);
    const at = row.key === null ? null : { type, key: row.key };
    return { lines: [`delete ${row.text}`], meant: this.#meant(null, at), tells: null };
  }

  async #linkage(operation: Json, ref: Json, member: string): Promise<Planned> {
    const type = typeof ref.type === 'string' ? this.answering.resources.byName.get(ref.type) : undefined;
    const over = type?.relationships.find((one) => one.member === member);
    if (type === undefined || over === undefined)
      return this.#refuse(422, `There is no relationship ${member} of this type.`, '/ref/relationship');
    if (over.readOnly) return this.#refuse(403, `${member} follows from others, and is not set.`, '/ref/relationship');
    const row = await this.#row(type, ref);
    const linkage = this.#reader.linkage(operation, over);
    const meant = this.#meant(null, row.key === null ? null : { type, key: row.key });
    return { lines: await this.#linking(operation.op, { type, ...row }, over, linkage), meant, tells: null };
  }

  async #linking(
    op: unknown,
    owner: { readonly type: ResourceType; readonly key: Wire; readonly text: string },
    over: Relationship,
    linkage: Named | null | readonly Named[],
  ): Promise<readonly string[]> {
    if (!over.many) {
      if (op !== 'update') return this.#refuse(422, `${over.member} leads to one: it is updated.`, '/op');
      const named = linkage as Named | null;
      const entered: Entered = named === null ? { kind: 'nothing' } : { kind: 'named row', text: named.text };
      return [updateNamedText(owner.text, [{ name: over.role.name, entered }])];
    }
    const to = linkage as readonly Named[];
    if (op === 'add') return linkLines('link', owner.text, over, to);
    if (op === 'remove') return linkLines('unlink', owner.text, over, to);
    if (op !== 'update') return this.#refuse(422, 'An operation is add, update or remove.', '/op');
    return owner.key === null
      ? linkLines('link', owner.text, over, to)
      : replacingLines(this.answering, owner.type, owner.key, over, to);
  }

  /** The row that is meant, which is there for whoever asks. */
  async #row(type: ResourceType, target: Json): Promise<{ readonly key: Wire; readonly text: string }> {
    const row = this.#reader.row(target, type, '/ref');
    if (row === null) return this.#refuse(422, `A resource of ${type.name} is named by its id.`, '/ref');
    if (row.key !== null && (await resourceIn(this.answering, type, row.key, readingOf([]))) === null)
      return this.#refuse(404, `There is no resource of ${type.name} with this id.`, '/ref');
    return row;
  }

  #meant(given: Given | null, at: Meant['at']): Meant {
    return { given, at, place: this.#at };
  }
}
