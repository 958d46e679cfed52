import type { AnswerRow } from '../load/index.js';
import { KIND_NAME, type Model } from '../model/index.js';
import { idOf } from './cursor.js';
import { heldIn, isHidden } from './held.js';
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
  readonly data?: Identifier | readonly Identifier[] | null;
  readonly meta?: Readonly<Record<string, unknown>>;
}

export interface ResourceObject {
  readonly type: string;
  readonly id: string;
  readonly attributes: Readonly<Record<string, unknown>>;
  readonly relationships: Readonly<Record<string, RelationshipObject>>;
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

/** A resource of an answer, written as JSON but for what rows that come later may tell of it. */
export interface ToldResource {
  readonly type: ResourceType;
  readonly id: string;
  /** Its address, as it stands within a text of JSON. */
  readonly self: string;
  /** The resource as JSON up to its relationships. */
  readonly head: string;
  /** Of each relationship of its pattern what follows its links: empty where it is not known what is behind it. */
  readonly linkages: string[];
  /** What follows its links. */
  readonly meta: string;
}

/** What the resources of one type have in common, as JSON. */
interface Pattern {
  readonly head: string;
  readonly self: string;
  readonly attributes: readonly { readonly start: string; readonly name: string; readonly member: string }[];
  readonly relationships: readonly {
    readonly over: Relationship;
    /** What stands before, between and behind the two times that the resource’s own address is written. */
    readonly before: string;
    readonly between: string;
    readonly behind: string;
  }[];
}

/** A resource that was included, and the loads with which it was told: the same once more tells nothing new. */
interface IncludedOnce {
  readonly resource: ToldResource;
  readonly with: Set<readonly Included[]>;
}

/**
 * Resources of an answer, with those that were included by them: each once. They are written as text at once, since that costs less than
 * half of what making objects and writing those does.
 */
export class Compound {
  readonly #included = new Map<string, IncludedOnce>();
  readonly #patterns = new Map<ResourceType, Pattern>();

  constructor(private readonly writing: Writing) {}

  /** The rows of an entity as resources, as which a document tells of nothing else. */
  primary(rows: readonly AnswerRow[], entity: string, included: readonly Included[]): readonly ToldResource[] {
    const told = rows.map((row) => this.#resource(row, entity, included));
    // What a document is about is not included once more (JSON:API 1.1, “Compound Documents”).
    for (const { type, id } of told) this.#included.delete(placeOf(type, id));
    return told;
  }

  /** What was included by the resources so far, as a list of JSON; null where nothing was. */
  get included(): string | null {
    return this.#included.size === 0 ? null : this.list(Array.from(this.#included.values(), ({ resource }) => resource));
  }

  /** Resources as a list of JSON. */
  list(resources: readonly ToldResource[]): string {
    return `[${resources.map((one) => this.one(one)).join(',')}]`;
  }

  /** A resource as JSON. */
  one({ type, self, head, linkages, meta }: ToldResource): string {
    let relationships = '';
    const pattern = this.#patternOf(type);
    for (let at = 0; at < pattern.relationships.length; at++) {
      const own = pattern.relationships[at];
      if (own === undefined) continue;
      const comma = at === 0 ? '' : ',';
      relationships += `${comma}${own.before}${self}${own.between}${self}${own.behind}${linkages[at] ?? ''}}`;
    }
    return `${head},"relationships":{${relationships}},"links":{"self":"${self}"}${meta}}`;
  }

  /** The linkage of a row over a relationship whose rows were loaded along, as JSON. */
  linkage(row: AnswerRow, { over, below }: Included): string {
    return this.#linkedTo(row, over, below, false);
  }

  /** The resources behind a relationship of a row to many, whose rows were loaded along. */
  identifiers(row: AnswerRow, { over }: Included): readonly { readonly type: ResourceType; readonly id: string }[] {
    const behind = row[over.role.name];
    const [first = ''] = over.targets;
    if (!Array.isArray(behind)) return [];
    return (behind as readonly AnswerRow[]).map((one) => {
      const type = typeOf(this.writing.resources, one, first);
      return { type, id: idOf(type, one) };
    });
  }

  /** A row as a resource of what it is: the entity, or a kind of it. */
  #resource(row: AnswerRow, entity: string, included: readonly Included[]): ToldResource {
    const type = typeOf(this.writing.resources, row, entity);
    const pattern = this.#patternOf(type);
    const id = idOf(type, row);
    const hidden: string[] = [];
    let attributes = '';
    for (const { start, name, member } of pattern.attributes) {
      const value = row[name];
      if (value === undefined) continue;
      if (isHidden(value)) hidden.push(member);
      attributes += `${attributes === '' ? '' : ','}${start}${isHidden(value) ? 'null' : valueJson(value)}`;
    }
    const linkages: string[] = [];
    for (const { over } of pattern.relationships) linkages.push(this.#linkageOf(row, type, over, included));
    return {
      type,
      id,
      self: pattern.self + encodeURIComponent(id),
      head: `${pattern.head}${JSON.stringify(id)},"attributes":{${attributes}}`,
      linkages,
      meta: hidden.length === 0 ? '' : `,"meta":${JSON.stringify({ hidden })}`,
    };
  }

  #linkageOf(row: AnswerRow, { entity }: ResourceType, over: Relationship, included: readonly Included[]): string {
    for (const along of included)
      if (along.over.role.name === over.role.name) {
        const data = `,"data":${this.#linkedTo(row, over, along.below, true)}`;
        return isHidden(row[over.role.name]) ? `${data}${HIDDEN}` : data;
      }
    const held = heldIn(this.writing, entity, over, row);
    if (held === 'not held') return '';
    return held === 'hidden' ? `,"data":null${HIDDEN}` : `,"data":${held === null ? 'null' : identifierJson(held, '')}`;
  }

  #linkedTo(row: AnswerRow, over: Relationship, below: readonly Included[], includes: boolean): string {
    const behind = row[over.role.name];
    if (Array.isArray(behind))
      return `[${(behind as readonly AnswerRow[]).map((one) => this.#linked(one, over, below, includes)).join(',')}]`;
    return behind === null || behind === undefined || isHidden(behind)
      ? 'null'
      : this.#linked(behind as AnswerRow, over, below, includes);
  }

  #linked(row: AnswerRow, over: Relationship, below: readonly Included[], includes: boolean): string {
    const [first = ''] = over.targets;
    const type = typeOf(this.writing.resources, row, first);
    const id = idOf(type, row);
    if (includes) this.#include(row, type, id, below);
    const pair = over.pairFields.length === 0 ? undefined : pairIn(row, over);
    return identifierJson({ type: type.name, id }, pair === undefined ? '' : `,"meta":${JSON.stringify(pair)}`);
  }

  #include(row: AnswerRow, type: ResourceType, id: string, below: readonly Included[]): void {
    const place = placeOf(type, id);
    const known = this.#included.get(place);
    if (known?.with.has(below) === true) return;
    const resource = this.#resource(row, type.entity.name, below);
    if (known === undefined) {
      this.#included.set(place, { resource, with: new Set([below]) });
      return;
    }
    known.with.add(below);
    // One that comes in two ways knows what is behind it in either.
    for (const [at, linkage] of resource.linkages.entries()) known.resource.linkages[at] ||= linkage;
  }

  #patternOf(type: ResourceType): Pattern {
    const known = this.#patterns.get(type);
    if (known !== undefined) return known;
    const { base, fields } = this.writing;
    const told = fields.get(type.name);
    const isTold = ({ member }: { readonly member: string }) => told === undefined || told.has(member);
    const pattern: Pattern = {
      head: `{"type":${JSON.stringify(type.name)},"id":`,
      self: `${JSON.stringify(base).slice(1, -1)}/${encodeURIComponent(type.name)}/`,
      attributes: type.attributes
        .filter(isTold)
        .map(({ member, field }) => ({ start: `${JSON.stringify(member)}:`, name: field.name, member })),
      relationships: type.relationships.filter(isTold).map((over) => {
        const part = encodeURIComponent(over.member);
        return {
          over,
          before: `${JSON.stringify(over.member)}:{"links":{"self":"`,
          between: `/relationships/${part}","related":"`,
          behind: `/${part}"}`,
        };
      }),
    };
    this.#patterns.set(type, pattern);
    return pattern;
  }
}

const HIDDEN = ',"meta":{"hidden":true}';

/** A document (JSON:API 1.1, “Top Level”). Its data and what is included are JSON already; null for what it has not. */
export function documentJson(parts: {
  readonly data: string | null;
  readonly included?: string | null;
  readonly links?: Readonly<Record<string, string>>;
  readonly meta?: Readonly<Record<string, unknown>>;
}): string {
  const { data, included = null, links, meta = {} } = parts;
  const members = [
    '"jsonapi":{"version":"1.1"}',
    ...(data === null ? [] : [`"data":${data}`]),
    ...(included === null ? [] : [`"included":${included}`]),
    ...(links === undefined ? [] : [`"links":${JSON.stringify(links)}`]),
    ...(Object.keys(meta).length === 0 ? [] : [`"meta":${JSON.stringify(meta)}`]),
  ];
  return `{${members.join(',')}}`;
}

function identifierJson({ type, id }: Identifier, meta: string): string {
  return `{"type":${JSON.stringify(type)},"id":${JSON.stringify(id)}${meta}}`;
}

function valueJson(value: unknown): string {
  return typeof value === 'number' ? String(value) : JSON.stringify(value);
}

function placeOf({ name }: ResourceType, id: string): string {
  return `${name}\n${id}`;
}

/** The type of a row: its kind’s, where rows of an entity are of several. */
export function typeOf(resources: Resources, row: AnswerRow, entity: string): ResourceType {
  const kind = row[KIND_NAME];
  const type = resources.byEntity.get(typeof kind === 'string' ? kind : entity);
  if (type === undefined) throw new Error(`no resource of ${entity}`);
  return type;
}

/** The fields of the pair over which a row was loaded. */
function pairIn(row: AnswerRow, { pairFields }: Relationship): Readonly<Record<string, unknown>> | undefined {
  const pair = Object.values(row).find(
    (value): value is Record<string, unknown> =>
      typeof value === 'object' && value !== null && pairFields.every(({ name }) => name in value),
  );
  return pair === undefined ? undefined : Object.fromEntries(pairFields.map(({ name }) => [name, pair[name]]));
}
