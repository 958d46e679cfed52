import { type Entity, entityOf, type Field, lineage, type Model, type PolymorphicRole, type Role } from '../model/index.js';
import { type FileValue, readRowName } from './values.js';

/** How a column says which row a role leads to: by its key, by a field of it, or by what it is shown as. */
export type RowNaming =
  | { readonly kind: 'key' }
  | { readonly kind: 'field'; readonly field: string }
  | { readonly kind: 'shown' };

/** What a column of a file is: left out, the kind of each row, a field of it, or the row behind a role of it. */
export type ColumnUse =
  | { readonly kind: 'left out' }
  | { readonly kind: 'the kind' }
  | { readonly kind: 'field'; readonly field: string }
  | {
      readonly kind: 'role';
      readonly role: string;
      /** The entity that is meant, of a role that leads to rows of several; null for any that the column's values name. */
      readonly target: string | null;
      readonly by: RowNaming;
    };

const LEFT_OUT = 'left out';
const THE_KIND = 'the kind';
const AS_SHOWN = ' as shown';

/** A use as a person writes it: `name`, `branch`, `branch.name`, `branch as shown`, `about Player.email`, `the kind`, `left out`. */
export function writeUse(use: ColumnUse): string {
  switch (use.kind) {
    case 'left out':
      return LEFT_OUT;
    case 'the kind':
      return THE_KIND;
    case 'field':
      return use.field;
    case 'role': {
      const place = use.target === null ? use.role : `${use.role} ${use.target}`;
      return use.by.kind === 'key' ? place : use.by.kind === 'shown' ? `${place}${AS_SHOWN}` : `${place}.${use.by.field}`;
    }
  }
}

/** A use that can be chosen for a column, with what it is written as. */
export interface OfferedUse {
  readonly use: ColumnUse;
  readonly written: string;
}

/** All that a column of a file can be for rows of an entity: its fields and to-one roles, and those of its kinds. */
export function usesOf(model: Model, name: string): readonly OfferedUse[] {
  const entity = entityOf(model, name);
  const all = [entity, ...kindsBelow(model, entity)];
  const uses = new Map<string, ColumnUse>();
  const add = (use: ColumnUse) => {
    const written = writeUse(use);
    if (!uses.has(written)) uses.set(written, use);
  };
  for (const one of all) {
    // A column that a role alone fills is told by the row that it leads to.
    const held = heldByRoles(one);
    for (const field of one.fields)
      if (field.physical.generated === null && !held.has(field.column.value)) add({ kind: 'field', field: field.name });
  }
  for (const one of all) {
    for (const role of one.roles) if (isHeld(role)) for (const use of roleUses(model, role, null)) add(use);
    for (const role of one.polymorphic) if (role.branches.some(isHeld)) for (const use of severalUses(model, role)) add(use);
  }
  if (all.length > 1 || (entity.kinds !== null && entity.kinds.concrete.length > 1)) add({ kind: 'the kind' });
  return Array.from(uses, ([written, use]) => ({ use, written }));
}

/** The kinds of an entity, and theirs. */
export function kindsBelow(model: Model, entity: Entity): Entity[] {
  return (entity.kinds?.kinds ?? []).flatMap((name) => {
    const kind = entityOf(model, name);
    return [kind, ...kindsBelow(model, kind)];
  });
}

/** The columns that a role of an entity fills by itself: its key of one column, or the mark and the key of one that leads to several. */
function heldByRoles({ roles, polymorphic }: Entity): ReadonlySet<string> {
  const ways = [...roles, ...polymorphic.flatMap(({ branches }) => branches)].filter(isHeld).map(({ way }) => way);
  return new Set(
    ways.flatMap((way) => {
      if (way.kind !== 'key' || way.columns.length !== 1) return [];
      return [...way.columns, ...(way.mark === null ? [] : [way.mark.column])];
    }),
  );
}

/** Does a row hold itself which row the role leads to? */
function isHeld(role: Role): boolean {
  return role.way.kind === 'key' && role.knows !== 'many';
}

function roleUses(model: Model, role: Role, target: string | null): readonly ColumnUse[] {
  const to = entityOf(model, role.target);
  const namings: RowNaming[] = [
    { kind: 'key' },
    ...uniqueFields(model, to).map(({ name }): RowNaming => ({ kind: 'field', field: name })),
    ...(isText(to.shownAs.value.type.kind) ? [{ kind: 'shown' } as const] : []),
  ];
  return namings.map((by) => ({ kind: 'role', role: role.name, target, by }));
}

function severalUses(model: Model, { name, branches }: PolymorphicRole): readonly ColumnUse[] {
  const any: ColumnUse = { kind: 'role', role: name, target: null, by: { kind: 'key' } };
  return [any, ...branches.flatMap((branch) => roleUses(model, branch, branch.target))];
}

/** The fields by each of which alone a row of an entity is known, but for its key. */
function uniqueFields(model: Model, entity: Entity): readonly Field[] {
  const alone = lineage(model, entity.name).flatMap(({ uniques }) =>
    uniques.flatMap(({ members }) => (members.length === 1 ? members : [])),
  );
  const isKey = (field: Field) => entity.key.fields.length === 1 && entity.key.fields[0]?.name === field.name;
  return entity.fields.filter((field) => !isKey(field) && !field.hidden && (field.unique !== null || alone.includes(field.name)));
}

function isText(kind: string): boolean {
  return kind === 'text' || kind === 'choice';
}

/**
 * What a column is, by what a person wrote of it.
 *
 * @returns a problem in words where it is nothing that rows of the entity have
 */
export function readUse(model: Model, entity: string, written: string): ColumnUse | { readonly problem: string } {
  const wish = written.trim().replace(/\s+/g, ' ');
  if (wish === LEFT_OUT) return { kind: 'left out' };
  const offered = usesOf(model, entity);
  const found = offered.find((one) => one.written === wish);
  if (found !== undefined) return found.use;
  const byAnyField = roleByField(model, entity, wish);
  if (byAnyField !== null) return byAnyField;
  const byColumn = offered.find(({ use }) => otherNames(model, entity, use).includes(wish));
  if (byColumn !== undefined) return byColumn.use;
  const some = offered.slice(0, 12).map((one) => one.written);
  return {
    problem: `${entity} has nothing called “${wish}” that a column can fill. It can be ${[...some, LEFT_OUT].join(', ')}${offered.length > 12 ? ', …' : ''}.`,
  };
}

/** A role by a field of its rows that need not be unique: the rows of the file then have to name one each. */
function roleByField(model: Model, entity: string, wish: string): ColumnUse | null {
  const parts = /^(\S+?)(?: (\S+?))?\.(\S+)$/.exec(wish);
  if (parts === null) return null;
  const [, role = '', named, field = ''] = parts;
  const use = usesOf(model, entity).find(
    (one) => one.use.kind === 'role' && one.use.role === role && one.use.target === (named ?? null),
  )?.use;
  if (use?.kind !== 'role') return null;
  const target = use.target ?? targetOf(model, entity, role);
  const known = target !== null && entityOf(model, target).fields.some(({ name }) => name === field);
  return known ? { ...use, by: { kind: 'field', field } } : null;
}

/** The entity that a role of an entity, or of one of its kinds, leads to; null where it leads to several. */
export function targetOf(model: Model, entity: string, role: string): string | null {
  const one = entityOf(model, entity);
  const found = [one, ...kindsBelow(model, one)].flatMap(({ roles }) => roles).find(({ name }) => name === role);
  return found?.target ?? null;
}

/**
 * What each column of a file is likely to be, by its name and by its first values: each use once; what is like nothing is left out.
 *
 * @param lines the first lines, each with its values in the order of the columns
 */
export function guessUses(
  model: Model,
  entity: string,
  columns: readonly string[],
  lines: readonly (readonly FileValue[])[],
): readonly ColumnUse[] {
  const offered = usesOf(model, entity);
  const names = new Map<string, ColumnUse>();
  const add = (name: string, use: ColumnUse) => {
    const alike = alikeForm(name);
    if (!names.has(alike)) names.set(alike, use);
  };
  for (const { written, use } of offered) add(written, use);
  for (const { use } of offered) for (const other of otherNames(model, entity, use)) add(other, use);
  const taken = new Set<string>();
  return columns.map((column, at) => {
    const named = names.get(alikeForm(column));
    const values = lines.map((line) => line[at] ?? null);
    const use = named?.kind === 'role' && named.by.kind === 'key' ? namedByValues(model, entity, named, values) : named;
    if (use === undefined || taken.has(writeUse(use))) return { kind: 'left out' };
    taken.add(writeUse(use));
    return use;
  });
}

/** A role as its column's values name its rows: by their keys, or where they are none by what the rows are shown as. */
function namedByValues(
  model: Model,
  entity: string,
  use: Extract<ColumnUse, { kind: 'role' }>,
  values: readonly FileValue[],
): ColumnUse {
  const target = use.target ?? targetOf(model, entity, use.role);
  const texts = values.flatMap((value) => (value === null || value === '' ? [] : [String(value)]));
  if (target === null || texts.length === 0) return use;
  if (texts.some((text) => readRowName(model, [target], text) !== null)) return use;
  const others = usesOf(model, entity).flatMap(({ use: one }) =>
    one.kind === 'role' && one.role === use.role && one.target === use.target && one.by.kind !== 'key' ? [one] : [],
  );
  return others.find(({ by }) => by.kind === 'shown') ?? others[0] ?? use;
}

function alikeForm(name: string): string {
  return name.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '');
}

/** What else a column of a use may be called: the column in the database, the title of a field. */
function otherNames(model: Model, entity: string, use: ColumnUse): readonly string[] {
  const one = entityOf(model, entity);
  const all = [one, ...kindsBelow(model, one)];
  switch (use.kind) {
    case 'left out':
      return [];
    case 'the kind': {
      const { storage } = one.kinds ?? {};
      return ['kind', ...(storage !== undefined && 'mark' in storage ? [storage.mark] : [])];
    }
    case 'field': {
      const fields = all.flatMap(({ fields }) => fields).filter(({ name }) => name === use.field);
      return fields.flatMap(({ column, title }) => [column.value, ...(title === null ? [] : [title])]);
    }
    case 'role': {
      if (use.by.kind !== 'key') return [];
      const ways = all.flatMap(({ roles }) => roles).filter(({ name }) => name === use.role);
      return ways.flatMap(({ way }) => (way.kind === 'key' && way.columns.length === 1 ? way.columns : []));
    }
  }
}
