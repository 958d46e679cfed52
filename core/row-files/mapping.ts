import { type Entity, entityOf, type Field, type Model, type Role } from '../model/index.js';
import { cellsOfRole, lackedBy } from '../write/index.js';
import { type ColumnUse, kindsBelow, type RowNaming, writeUse } from './uses.js';

/** How the lines of a file become rows of an entity. */
export interface FileMapping {
  readonly entity: string;
  /** What each column of the file is, in their order. */
  readonly columns: readonly { readonly name: string; readonly use: ColumnUse }[];
  /** The text that stands for nothing. */
  readonly nothing: string;
  /** What is done with a line whose row is there already. */
  readonly there: 'refuse' | 'skip' | 'update';
  /** The fields and roles by which a row that is there is told; none for the key, or the first unique that the columns fill. */
  readonly match: readonly string[];
}

/** A role of which columns say which row it leads to. */
export interface MappedRole {
  readonly role: string;
  readonly target: string | null;
  /** What each of its columns tells of the row, and where the column stands. */
  readonly said: readonly { readonly at: number; readonly by: RowNaming }[];
}

/** The roles that columns of a file fill, each once. */
export function rolesMapped({ columns }: FileMapping): readonly MappedRole[] {
  const roles = new Map<string, { role: string; target: string | null; said: { at: number; by: RowNaming }[] }>();
  for (const [at, { use }] of columns.entries()) {
    if (use.kind !== 'role') continue;
    const known = roles.get(use.role) ?? { role: use.role, target: use.target, said: [] };
    known.said.push({ at, by: use.by });
    roles.set(use.role, known);
  }
  return Array.from(roles.values());
}

/** The roles of an entity under one name: the branches of one that leads to several entities, or itself alone. */
export function rolesNamed({ roles, polymorphic }: Entity, name: string): readonly Role[] {
  return [
    ...roles.filter((role) => role.name === name),
    ...polymorphic.filter((role) => role.name === name).flatMap(({ branches }) => branches),
  ];
}

/** The columns of a table that a use fills in rows of an entity; none where it has no such field or role. */
export function columnsFilled(model: Model, entity: Entity, use: ColumnUse): readonly string[] {
  if (use.kind === 'field') return entity.fields.flatMap((field) => (field.name === use.field ? [field.column.value] : []));
  if (use.kind !== 'role') return [];
  const filled = rolesNamed(entity, use.role).flatMap((role) => cellsOfRole(model, role, null).map(({ column }) => column));
  return Array.from(new Set(filled));
}

/** By what rows that are there are told: as the mapping says, or the key, or the first unique that its columns fill; null for none. */
export function matchOf(model: Model, mapping: FileMapping): readonly string[] | null {
  if (mapping.match.length > 0) return mapping.match;
  const { key, fields, uniques } = entityOf(model, mapping.entity);
  const filled = new Set(
    mapping.columns.flatMap(({ use }) => (use.kind === 'field' ? [use.field] : use.kind === 'role' ? [use.role] : [])),
  );
  const all = [
    key.fields.map(({ name }) => name),
    ...fields.flatMap(({ name, unique }) => (unique === null ? [] : [[name]])),
    ...uniques.map(({ members }) => members),
  ];
  return all.find((members) => members.length > 0 && members.every((name) => filled.has(name))) ?? null;
}

/** What is wrong with a mapping, before any line is read; nothing where it can be used. */
export function problemsOf(model: Model, mapping: FileMapping, bySystem = true): readonly string[] {
  const entity = entityOf(model, mapping.entity);
  if (entity.given) return [`${entity.name} is given: its rows are read, and never changed here.`];
  const used = mapping.columns.filter(({ use }) => use.kind !== 'left out');
  if (used.length === 0) return ['Every column is left out. Say what at least one of them is.'];
  return [
    ...saidTwice(model, entity, mapping),
    ...wayProblems(model, entity, mapping),
    ...lacking(model, entity, mapping, bySystem),
  ];
}

function saidTwice(model: Model, entity: Entity, mapping: FileMapping): readonly string[] {
  const problems: string[] = [];
  const byUse = new Map<string, string>();
  for (const { name, use } of mapping.columns) {
    if (use.kind === 'left out') continue;
    const written = writeUse(use);
    const before = byUse.get(written);
    if (before !== undefined) problems.push(`Both ${before} and ${name} are ${written}. Leave one of the two out.`);
    byUse.set(written, name);
  }
  for (const { role, said } of rolesMapped(mapping))
    if (said.length > 1 && said.some(({ by }) => by.kind !== 'field'))
      problems.push(
        `${role} is told by several columns. That is for fields of its row alone, as ${role}.one and ${role}.other; leave the others out.`,
      );
  const filledBy = new Map<string, string>();
  for (const one of [entity, ...kindsBelow(model, entity)])
    for (const { use } of mapping.columns) {
      if (use.kind !== 'field' && use.kind !== 'role') continue;
      const said = use.kind === 'field' ? use.field : use.role;
      for (const column of columnsFilled(model, one, use)) {
        const place = `${one.name}.${column}`;
        const before = filledBy.get(place) ?? said;
        if (before !== said) problems.push(`${before} and ${said} both fill ${place}. Leave one of the two out.`);
        filledBy.set(place, said);
      }
    }
  return Array.from(new Set(problems));
}

function wayProblems(model: Model, entity: Entity, mapping: FileMapping): readonly string[] {
  const problems: string[] = [];
  const concrete = entity.kinds?.concrete ?? [];
  const hasKind = mapping.columns.some(({ use }) => use.kind === 'the kind');
  if (entity.kinds?.abstract === true && !hasKind)
    problems.push(
      `${entity.name} is abstract. Say which column is “the kind” of each row, or bring the lines in as ${concrete.map((kind) => kind.entity).join(' or ')}.`,
    );
  if (mapping.there === 'refuse') return problems;
  const match = matchOf(model, mapping);
  if (match === null)
    return [
      ...problems,
      `Nothing tells which row of ${entity.name} is there already. Fill its key or one of its uniques, or say by which columns.`,
    ];
  const filled = new Set(
    mapping.columns.flatMap(({ use }) => (use.kind === 'field' ? [use.field] : use.kind === 'role' ? [use.role] : [])),
  );
  const unfilled = match.filter((name) => !filled.has(name));
  if (unfilled.length > 0)
    problems.push(`Rows that are there are told by ${unfilled.join(', ')}, which no column of the file is.`);
  return problems;
}

/** What every row has to have and no column fills; of a base, what rows of all its kinds have to have. */
function lacking(model: Model, entity: Entity, mapping: FileMapping, bySystem: boolean): readonly string[] {
  // What is only changed is not made anew; a row that is not there is told of by its line.
  if (mapping.there === 'update') return [];
  return lacksIn(model, entity, mapping, bySystem).map(
    (name) => `${entity.name}.${name} is required, and no column of the file is it.`,
  );
}

/** The key of an entity whose rows are told apart by a uuid, which is made up where none is given; null for another key. */
export function uuidKey({ key }: Entity): Field | null {
  const [only, ...more] = key.fields;
  return only !== undefined && more.length === 0 && only.type.kind === 'uuid' && only.default === null ? only : null;
}

/** The fields and roles that a row of an entity has to have, and that no column fills. */
export function lacksIn(model: Model, entity: Entity, mapping: FileMapping, bySystem: boolean): readonly string[] {
  const filled = new Set(mapping.columns.flatMap(({ use }) => columnsFilled(model, entity, use)));
  const uuid = uuidKey(entity);
  if (uuid !== null) filled.add(uuid.column.value);
  const lacked = lackedBy(model, entity.name, (column) => (filled.has(column) ? true : null)).map(({ name }) => name);
  // What a wall pins is filled in for whoever is at work; the system is nobody, and has to be given it.
  const pinned = pinnedIn(model, entity.name);
  if (!bySystem) return lacked.filter((name) => !pinned.has(name));
  const said = new Set(
    mapping.columns.flatMap(({ use }) => (use.kind === 'field' ? [use.field] : use.kind === 'role' ? [use.role] : [])),
  );
  return Array.from(new Set([...lacked, ...Array.from(pinned).filter((name) => !said.has(name))]));
}

/** The fields and roles of an entity that walls pin. */
function pinnedIn({ walls }: Model, entity: string): ReadonlySet<string> {
  const pins = Array.from(walls.values()).flatMap((wall) => wall.pins.get(entity) ?? []);
  return new Set(pins.map(({ member }) => (member.kind === 'field' ? member.field.name : member.role.name)));
}
