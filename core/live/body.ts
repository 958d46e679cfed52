import { type Entered, type Entry, keyFrom, rowText } from '../edits/index.js';
import type { Field, Model } from '../model/index.js';
import { parseWire, type ValueType, type Wire } from '../values/index.js';
import { Faulty, fault, type LiveFault } from './fault.js';
import { isOneOf, type Relationship, type Resources, type ResourceType } from './resources.js';

/** A resource that a body names. */
export interface Named {
  readonly type: ResourceType;
  /** Null where an operation before makes it. */
  readonly key: Wire;
  /** As the notation names its row. */
  readonly text: string;
  /** What it says of the pair by which it is linked. */
  readonly pair: readonly Entry[];
}

/** What a body gives a resource: fields and roles with what is put into them, and the resources behind roles to many. */
export interface Given {
  readonly type: ResourceType;
  /** The key that it says; null where it says none. */
  readonly id: Wire;
  readonly entries: readonly Entry[];
  readonly linked: readonly { readonly over: Relationship; readonly to: readonly Named[] }[];
}

/** What a body says of one relationship. */
interface GivenLinkage {
  readonly over: Relationship;
  /** A list where the relationship leads to many. */
  readonly data: unknown;
  readonly pointer: string;
}

/** An object of JSON. */
export type Json = Readonly<Record<string, unknown>>;

/** Reads the bodies of requests that write; what is wrong is gathered, each with its place. */
export class BodyReader {
  readonly #faults: LiveFault[] = [];

  constructor(
    private readonly model: Model,
    private readonly resources: Resources,
    /** Where the document stands in the body: empty, or the place of an operation. */
    private readonly at = '',
    /** The rows that operations before this one make, as the notation names them, by the type and the local id. */
    private readonly made: ReadonlyMap<string, string> = new Map(),
  ) {}

  /** @throws Faulty where anything was wrong */
  #done<T>(value: T): T {
    if (this.#faults.length > 0) throw new Faulty(this.#faults);
    return value;
  }

  /** @throws Faulty */
  #end(status: number, detail: string, pointer: string): never {
    this.#wrong(status, detail, pointer);
    throw new Faulty(this.#faults);
  }

  #wrong(status: number, detail: string, pointer: string): null {
    this.#faults.push(fault(status, detail, { pointer: `${this.at}${pointer}` }));
    return null;
  }

  /**
   * A resource that is to be made, or changed.
   *
   * @param isNew whether it is made: then what is fixed may be given
   */
  resource(body: unknown, collection: ResourceType, isNew: boolean): Given {
    const data = isObject(body) ? body.data : undefined;
    if (!isObject(data)) return this.#end(422, 'The body has a resource as its data.', '/data');
    const type = typeof data.type === 'string' ? this.resources.byName.get(data.type) : undefined;
    if (type === undefined || !isOneOf(this.model, type.entity.name, collection.entity.name))
      return this.#end(409, `What is ${isNew ? 'made' : 'changed'} here is of the type ${collection.name}.`, '/data/type');
    if (type.entity.kinds?.abstract === true)
      return this.#end(409, `A resource is one of the kinds of ${type.name}: ${this.#kinds(type)}.`, '/data/type');
    const attributes = this.#attributes(data.attributes, type, isNew);
    const relationships = this.#relationships(data.relationships, type);
    const entries = [...attributes, ...this.#toOne(relationships)];
    const linked = this.#toMany(relationships);
    const id = data.id === undefined ? null : this.#id(type, data.id, '/data/id');
    return this.#done({ type, id, entries, linked });
  }

  /** The resources of a linkage: one, none, or several. */
  linkage(body: unknown, over: Relationship): Named | null | readonly Named[] {
    const data = isObject(body) ? body.data : undefined;
    if (data === undefined) return this.#end(422, 'The body has data: a resource, null, or a list of resources.', '/data');
    if (Array.isArray(data) !== over.many)
      return this.#end(
        422,
        over.many
          ? `${over.member} leads to many: its data is a list.`
          : `${over.member} leads to one: its data is one resource, or null.`,
        '/data',
      );
    if (Array.isArray(data)) {
      const named = data.map((one, at) => this.#named(one, over, `/data/${at}`));
      return this.#done(named.flatMap((one) => one ?? []));
    }
    return this.#done(data === null ? null : this.#named(data, over, '/data'));
  }

  #kinds({ entity }: ResourceType): string {
    return (entity.kinds?.kinds ?? []).flatMap((kind) => this.resources.byEntity.get(kind)?.name ?? []).join(', ');
  }

  #id(type: ResourceType, id: unknown, pointer: string): Wire {
    const key = typeof id === 'string' ? keyFrom(type.entity.key.type, id) : null;
    if (key === null) this.#wrong(422, `An id of ${type.name} is a text that its key is written as.`, pointer);
    return key;
  }

  #attributes(given: unknown, type: ResourceType, isNew: boolean): readonly Entry[] {
    if (given === undefined) return [];
    if (!isObject(given)) {
      this.#wrong(422, 'The attributes are an object.', '/data/attributes');
      return [];
    }
    return Object.entries(given).flatMap(([member, value]): readonly Entry[] => {
      const pointer = `/data/attributes/${escaped(member)}`;
      const attribute = type.attributes.find((one) => one.member === member);
      // What is never told may be set: a secret is.
      const stored = attribute?.stored ?? type.entity.fields.find((field) => field.hidden && field.name === member) ?? null;
      if (stored === null) {
        this.#wrong(
          422,
          attribute === undefined
            ? `Resources of ${type.name} have no attribute ${member}.`
            : `${member} is computed, and not set.`,
          pointer,
        );
        return [];
      }
      if (stored.internal) this.#wrong(422, `${member} is internal: no caller sets it.`, pointer);
      else if (stored.fixed && !isNew) this.#wrong(422, `${member} is fixed: it is not changed once it is made.`, pointer);
      else if (stored.key && !isNew)
        this.#wrong(422, `${member} is the key, by which others know the resource: it is not changed here.`, pointer);
      const entered = this.#entered(stored, value, pointer);
      return entered === null ? [] : [{ name: stored.name, entered }];
    });
  }

  #entered({ type, name, required }: Field, value: unknown, pointer: string): Entered | null {
    if (value === null) return required ? this.#wrong(422, `${name} is required.`, pointer) : { kind: 'nothing' };
    const text = textOf(type, value);
    if (text === null) return this.#wrong(422, `${name} is ${wordFor(type)}.`, pointer);
    const parsed = parseWire(type, text);
    return parsed.ok ? { kind: 'value', type, text } : this.#wrong(422, `${name}: ${parsed.problem}`, pointer);
  }

  #relationships(given: unknown, type: ResourceType): readonly GivenLinkage[] {
    if (given === undefined) return [];
    if (!isObject(given)) {
      this.#wrong(422, 'The relationships are an object.', '/data/relationships');
      return [];
    }
    return Object.entries(given).flatMap(([member, one]) => {
      const pointer = `/data/relationships/${escaped(member)}`;
      const over = type.relationships.find((known) => known.member === member);
      if (over === undefined || over.readOnly) {
        this.#wrong(
          422,
          over === undefined
            ? `Resources of ${type.name} have no relationship ${member}.`
            : `${member} follows from others, and is not set.`,
          pointer,
        );
        return [];
      }
      if (!isObject(one) || one.data === undefined) {
        this.#wrong(422, 'A relationship is given as an object with data.', pointer);
        return [];
      }
      if (Array.isArray(one.data) !== over.many) {
        this.#wrong(
          422,
          over.many
            ? `${member} leads to many: its data is a list.`
            : `${member} leads to one: its data is one resource, or null.`,
          `${pointer}/data`,
        );
        return [];
      }
      return [{ over, data: one.data, pointer: `${pointer}/data` }];
    });
  }

  #toOne(given: readonly GivenLinkage[]): readonly Entry[] {
    return given.flatMap(({ over, data, pointer }): readonly Entry[] => {
      if (over.many) return [];
      const named = data === null ? null : this.#named(data, over, pointer);
      const entered: Entered = named === null ? { kind: 'nothing' } : { kind: 'named row', text: named.text };
      return [{ name: over.role.name, entered }];
    });
  }

  #toMany(given: readonly GivenLinkage[]): Given['linked'] {
    return given.flatMap(({ over, data, pointer }) =>
      over.many
        ? [{ over, to: (data as readonly unknown[]).flatMap((one, at) => this.#named(one, over, `${pointer}/${at}`) ?? []) }]
        : [],
    );
  }

  #named(one: unknown, over: Relationship, pointer: string): Named | null {
    if (!isObject(one)) return this.#wrong(422, 'A resource is named by its type and its id.', pointer);
    const type = typeof one.type === 'string' ? this.resources.byName.get(one.type) : undefined;
    const isTarget = type !== undefined && over.targets.some((target) => isOneOf(this.model, type.entity.name, target));
    const isBase = type !== undefined && over.targets.some((target) => isOneOf(this.model, target, type.entity.name));
    if (type === undefined || !(isTarget || isBase)) {
      const names = over.targets.flatMap((target) => this.resources.byEntity.get(target)?.name ?? []);
      return this.#wrong(409, `${over.member} leads to ${names.join(' or ')}.`, `${pointer}/type`);
    }
    const row = this.row(one, type, pointer);
    return row === null ? null : { type, ...row, pair: this.#pair(one.meta, over, `${pointer}/meta`) };
  }

  /** The row that an identifier names: by its id, or by the local one that an operation before gave it. */
  row(one: Json, type: ResourceType, pointer: string): { readonly key: Wire; readonly text: string } | null {
    if (typeof one.lid === 'string') {
      const text = this.made.get(localName(type, one.lid));
      return text === undefined
        ? this.#wrong(422, `No operation before makes a resource of ${type.name} with the local id ${one.lid}.`, `${pointer}/lid`)
        : { key: null, text };
    }
    const key = this.#id(type, one.id, `${pointer}/id`);
    return key === null ? null : { key, text: rowText({ entity: type.entity.name, keyType: type.entity.key.type, key }) };
  }

  /** What the meta of a linkage says of its pair. */
  #pair(meta: unknown, { pairFields, member }: Relationship, pointer: string): readonly Entry[] {
    if (meta === undefined) return [];
    if (!isObject(meta)) {
      this.#wrong(422, 'The meta of a linkage is an object.', pointer);
      return [];
    }
    return Object.entries(meta).flatMap(([name, value]): readonly Entry[] => {
      const field = pairFields.find((one) => one.name === name);
      const entered =
        field === undefined
          ? this.#wrong(422, `The pairs of ${member} have no ${name}.`, `${pointer}/${escaped(name)}`)
          : this.#entered(field, value, `${pointer}/${escaped(name)}`);
      return entered === null ? [] : [{ name, entered }];
    });
  }
}

export function isObject(value: unknown): value is Json {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** What a resource that has no id yet is known by. */
export function localName({ name }: ResourceType, lid: string): string {
  return `${name}\n${lid}`;
}

/** A member’s name within a JSON pointer (RFC 6901, 3). */
export function escaped(member: string): string {
  return member.replaceAll('~', '~0').replaceAll('/', '~1');
}

/** A value of JSON as a person writes it for its type; null where JSON has no such value for the type. */
function textOf(type: ValueType, value: unknown): string | null {
  switch (type.kind) {
    case 'boolean':
      return typeof value === 'boolean' ? String(value) : null;
    case 'integer':
      return typeof value === 'number' && Number.isInteger(value) ? String(value) : null;
    case 'real':
      return typeof value === 'number' ? String(value) : null;
    case 'bigint':
      if (typeof value === 'number') return Number.isSafeInteger(value) ? String(value) : null;
      return typeof value === 'string' ? value : null;
    case 'decimal':
      // A number may have lost digits on its way; a text has not.
      return typeof value === 'string' ? value : typeof value === 'number' && Math.abs(value) < 1e15 ? String(value) : null;
    case 'json':
      return JSON.stringify(value);
    default:
      return typeof value === 'string' ? value : null;
  }
}

function wordFor(type: ValueType): string {
  switch (type.kind) {
    case 'boolean':
      return 'true or false';
    case 'integer':
      return 'a whole number';
    case 'real':
      return 'a number';
    case 'bigint':
    case 'decimal':
      return 'a number, best written as a text so that no digit is lost';
    default:
      return 'a text';
  }
}
