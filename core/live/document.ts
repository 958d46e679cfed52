import type { AnswerRow } from '../load/index.js';
import { type Entity, KIND_NAME, type Model, type Role } from '../model/index.js';

import { joinKey, type Wire } from '../values/index.js';
import { idOf } from './cursor.js';
import type { Included } from './query-text.js';
import type { Relationship, Resources, ResourceType } from './resources.js';

/** Which resource is meant (JSON:API 1.1, “Resource Identifier Objects”). */
export interface Identifier {
  readonly type: string;
  readonly id: string;
  readonly meta?: Readonly<Record<string, unknown>>;
}

export interface RelationshipObject {
  readonly links: { readonly self: string; readonly related: string };
  data?: Identifier | readonly Identifier[] | null;
  readonly meta?: Readonly<Record<string, unknown>>;
}

export interface ResourceObject {
  readonly type: string;
  readonly id: string;
  readonly attributes: Record<string, unknown>;
  readonly relationships: Record<string, RelationshipObject>;
  readonly links: { readonly self: string };
  readonly meta?: Readonly<Record<string, unknown>>;
}

/** What documents are written with. */
export interface Writing {
  readonly model: Model;
  readonly resources: Resources;
  /** The address of the endpoint, that its links begin with. */
  readonly base: string;
  /** The members that resources of a type are told with; a type that is missing is told whole. */
  readonly fields: ReadonlyMap<string, ReadonlySet<string>>;
}

/** Resources of an answer, with those that were included by them: each once. */
export class Compound {
  readonly #included = new Map<string, ResourceObject>();

  constructor(private readonly writing: Writing) {}

  /** The rows of an entity as resources, as which a document tells of nothing else. */
  primary(rows: readonly AnswerRow[], entity: string, included: readonly Included[]): readonly ResourceObject[] {
    const told = rows.map((row) => this.resource(row, entity, included));
    // What a document is about is not included once more (JSON:API 1.1, “Compound Documents”).
    for (const one of told) this.#included.delete(placeOf(one));
    return told;
  }

  /** What was included by the resources so far. */
  get included(): readonly ResourceObject[] {
    return Array.from(this.#included.values());
  }

  /** The linkage of a row over a relationship whose rows were loaded along. */
  linkage(row: AnswerRow, { over, below }: Included): Identifier | readonly Identifier[] | null {
    return this.#linkedTo(row, over, below, false);
  }

  /** A row as a resource of what it is: the entity, or a kind of it. */
  resource(row: AnswerRow, entity: string, included: readonly Included[]): ResourceObject {
    const { resources, base, fields } = this.writing;
    const type = typeOf(resources, row, entity);
    const id = idOf(type, row);
    const self = `${base}/${type.name}/${encodeURIComponent(id)}`;
    const told = fields.get(type.name);
    const isTold = (member: string) => told === undefined || told.has(member);
    const hidden: string[] = [];
    const attributes: Record<string, unknown> = {};
    for (const { member, field } of type.attributes) {
      if (!isTold(member) || !(field.name in row)) continue;
      const value = row[field.name];
      if (isHidden(value)) hidden.push(member);
      attributes[member] = isHidden(value) ? null : value;
    }
    const relationships: Record<string, RelationshipObject> = {};
    for (const over of type.relationships) {
      if (!isTold(over.member)) continue;
      const links = { self: `${self}/relationships/${over.member}`, related: `${self}/${over.member}` };
      const along = included.find((one) => one.over.role.name === over.role.name);
      if (along !== undefined) {
        const meta = isHidden(row[over.role.name]) ? { meta: { hidden: true } } : {};
        relationships[over.member] = { links, data: this.#linkedTo(row, over, along.below, true), ...meta };
        continue;
      }
      const held = heldIn(this.writing, type.entity, over, row);
      if (held === 'not held') relationships[over.member] = { links };
      else if (held === 'hidden') relationships[over.member] = { links, data: null, meta: { hidden: true } };
      else relationships[over.member] = { links, data: held };
    }
    const meta = hidden.length === 0 ? {} : { meta: { hidden } };
    return { type: type.name, id, attributes, relationships, links: { self }, ...meta };
  }

  #linkedTo(
    row: AnswerRow,
    over: Relationship,
    below: readonly Included[],
    includes: boolean,
  ): Identifier | readonly Identifier[] | null {
    const behind = row[over.role.name];
    const [first = ''] = over.targets;
    const of = (one: AnswerRow): Identifier => {
      const resource = this.resource(one, first, below);
      if (includes) this.#include(resource);
      const pair = over.pairFields.length === 0 ? undefined : pairIn(one, over);
      return { type: resource.type, id: resource.id, ...(pair === undefined ? {} : { meta: pair }) };
    };
    if (Array.isArray(behind)) return (behind as readonly AnswerRow[]).map(of);
    return behind === null || behind === undefined || isHidden(behind) ? null : of(behind as AnswerRow);
  }

  #include(resource: ResourceObject): void {
    const place = placeOf(resource);
    const known = this.#included.get(place);
    if (known === undefined) {
      this.#included.set(place, resource);
      return;
    }
    // One that comes in two ways knows what is behind it in either.
    for (const [member, one] of Object.entries(resource.relationships)) {
      const there = known.relationships[member];
      if (one.data !== undefined && there !== undefined && there.data === undefined) there.data = one.data;
    }
  }
}

function placeOf({ type, id }: Identifier): string {
  return `${type}\n${id}`;
}

/** The type of a row: its kind’s, where rows of an entity are of several. */
export function typeOf(resources: Resources, row: AnswerRow, entity: string): ResourceType {
  const kind = row[KIND_NAME];
  const type = resources.byEntity.get(typeof kind === 'string' ? kind : entity);
  if (type === undefined) throw new Error(`no resource of ${entity}`);
  return type;
}

function isHidden(value: unknown): boolean {
  return typeof value === 'object' && value !== null && 'hidden' in value && value.hidden === true;
}

/** The fields of the pair over which a row was loaded. */
function pairIn(row: AnswerRow, { pairFields }: Relationship): Readonly<Record<string, unknown>> | undefined {
  const pair = Object.values(row).find(
    (value): value is Record<string, unknown> =>
      typeof value === 'object' && value !== null && pairFields.every(({ name }) => name in value),
  );
  return pair === undefined ? undefined : Object.fromEntries(pairFields.map(({ name }) => [name, pair[name]]));
}

/**
 * The one resource that the row’s own key columns lead to. Where it may be of several types it is not known without a look: it is
 * told where it is included.
 */
function heldIn(
  { model, resources }: Writing,
  entity: Entity,
  { role, many }: Relationship,
  row: AnswerRow,
): Identifier | null | 'hidden' | 'not held' {
  if (many) return 'not held';
  const branch = 'branches' in role ? branchOf(entity, role.branches, row) : role;
  if (branch === null) return null;
  if (branch === 'hidden') return 'hidden';
  const target = model.entities.get(branch.target);
  if (branch.way.kind !== 'key' || target === undefined || target.kinds !== null) return 'not held';
  if (branch.way.mark !== null && branch.way.mark.held !== null) return 'not held';
  const parts = branch.way.columns.map((name) => row[memberOf(entity, name)]);
  if (parts.some((part) => part === undefined)) return 'not held';
  if (parts.some(isHidden)) return 'hidden';
  if (parts.some((part) => part === null)) return null;
  const type = resources.byEntity.get(target.name);
  return type === undefined ? 'not held' : { type: type.name, id: String(joinKey(target.key.type, parts as Wire[])) };
}

/** The branch of a role to rows of several entities that a row’s mark tells of; null where it leads nowhere. */
function branchOf(entity: Entity, branches: readonly Role[], row: AnswerRow): Role | null | 'hidden' {
  const [first] = branches;
  if (first?.way.kind !== 'key' || first.way.mark === null) return first ?? null;
  const mark = row[memberOf(entity, first.way.mark.column)];
  if (isHidden(mark)) return 'hidden';
  return branches.find(({ way }) => way.kind === 'key' && way.mark?.values.includes(String(mark))) ?? null;
}

/** The name under which an answer has a column: its field’s, else its own. */
function memberOf({ fields }: Entity, column: string): string {
  return fields.find((field) => field.column.value === column)?.name ?? column;
}
