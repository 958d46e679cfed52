import { type EntityLine, type EntitySyntax, type Name, withArticle } from '../notation/index.js';
import type { TableName } from '../sql/index.js';
import { derivedNames, type EntityDraft, lineageOf, type Resolution, unknownName, wrong } from './draft.js';
import { resolveField } from './fields.js';
import { type KeySources, resolveKey } from './keys.js';
import type { Chosen, Field, Key, Kinds } from './model.js';
import { plural, snakeCase } from './names.js';
import { refer } from './references.js';

/** SQLite has 2,000 columns in a table at most, and the others fewer (https://www.sqlite.org/limits.html). */
const MOST_FIELDS_EACH = 2000;
/** How many fields all entities of a text have together: what can be read while somebody types. */
const MOST_FIELDS = 100_000;

/** Tells once of each entity that it has more fields than there can be; those are left out. */
function isTooMany(resolution: Resolution, entity: string, field: Name, own: number): boolean {
  const all = resolution.counts.fields >= MOST_FIELDS;
  if (own < MOST_FIELDS_EACH && !all) return false;
  const told = resolution.counts.tooMany.has(entity);
  resolution.counts.tooMany.add(entity);
  if (told) return true;
  wrong(
    resolution,
    'too-many-fields',
    field.span,
    all
      ? `The entities of this text have more than ${MOST_FIELDS.toLocaleString('en')} fields together. ${entity}.${field.text} and those after it are left out; split the tree.`
      : `${entity} has more than ${MOST_FIELDS_EACH.toLocaleString('en')} fields, which no table can hold. ${field.text} and those after it are left out; split the entity.`,
  );
  return true;
}

/**
 * The frame of an entity: table, fields, key. What stands on relations (constraints, derived fields, order) is
 * resolved later, when all roles are known. Null, with a finding, where the model has to leave the entity out.
 */
export function draftEntity(resolution: Resolution, syntax: EntitySyntax, sources: KeySources): EntityDraft | null {
  const name = syntax.name.text;
  const { lines, mixins, owners } = linesOf(resolution, syntax);
  resolution.leftOut.set(name, 'wrong');
  const kinds = resolution.kinds.get(name) ?? null;
  const base = syntax.base === null || kinds === null ? null : sources.draft(syntax.base.text);
  if (syntax.base !== null) refer(resolution.references, syntax.base, 'entity');
  // A kind whose base is left out was told of, or goes with it.
  if ((syntax.base !== null && (base === null || kinds === null)) || (syntax.abstract && kinds === null)) return null;
  const fields: Field[] = [...(base?.fields ?? [])];
  const byName = new Map(fields.map((field) => [field.name.toLowerCase(), field]));
  const byColumn = new Map(fields.map((field) => [field.column.value.toLowerCase(), field]));
  for (const line of lines) {
    if (line.kind === 'derived') refer(resolution.references, line.name, 'field', owners.get(line) ?? name, true);
    if (line.kind !== 'field') continue;
    refer(resolution.references, line.name, 'field', owners.get(line) ?? name, true);
    const clash = byName.get(line.name.text.toLowerCase());
    if (clash !== undefined) {
      wrong(
        resolution,
        'name-clash',
        line.name.span,
        `${name} has a field ${clash.name} already${clash.mixin !== null ? `, from ${clash.mixin}` : clash.owner !== name ? `, from ${clash.owner}` : ''}. Rename one of the two.`,
      );
      continue;
    }
    if (isTooMany(resolution, name, line.name, fields.length)) {
      resolution.leftOutMembers.add(`${name}.${line.name.text}`);
      continue;
    }
    const field = resolveField(resolution, name, line, owners.get(line) ?? null);
    if (field === null) {
      resolution.leftOutMembers.add(`${name}.${line.name.text}`);
      continue;
    }
    const sameColumn = byColumn.get(field.column.value.toLowerCase());
    if (sameColumn !== undefined) {
      wrong(
        resolution,
        'column-clash',
        field.span,
        `${name}.${field.name} and ${name}.${sameColumn.name} are both stored in ${field.column.value}. Give one of them another column.`,
      );
      continue;
    }
    if (reserved(kinds).includes(field.column.value.toLowerCase())) {
      wrong(
        resolution,
        'mark-field',
        field.span,
        `${name}.${field.name}: the column ${field.column.value} holds what kind a row is, and is set by the kind’s name. Remove the field, or give it another column.`,
      );
      continue;
    }
    const sibling = base === null ? null : columnOfSibling(resolution, kinds, field);
    if (sibling !== null) {
      wrong(
        resolution,
        'column-clash',
        field.span,
        `${name}.${field.name} and a field of ${sibling} would both stand in the column ${field.column.value} of ${base?.table.value.name}, since their kinds share a table. Write “column …” behind one of them, or move the field to ${base?.name}.`,
      );
      continue;
    }
    fields.push(field);
    byName.set(field.name.toLowerCase(), field);
    byColumn.set(field.column.value.toLowerCase(), field);
    resolution.counts.fields += 1;
  }
  const key = base === null ? resolveKey(resolution, syntax, fields, sources) : keyOfKind(resolution, syntax, base);
  if (key === null || (base === null && !fitsKinds(resolution, syntax, key, kinds))) return null;
  resolution.leftOut.delete(name);
  const [alone] = key.fields.length === 1 ? key.fields : [];
  return {
    name,
    table: tableOf(resolution, syntax, base, kinds),
    // “key (id)” of one field says the same as that field’s own word.
    fields: fields.map((field) => (field === alone ? { ...field, key: true } : field)),
    key,
    lines: withoutDoubles(resolution, name, lines, { owners, fields: byName, base }),
    owners,
    mixins,
    roles: [],
    polymorphic: [],
    roleNames: new Map(),
    fieldNames: byName,
    base,
    kinds,
    pivotOf: null,
    given: syntax.given || (base?.given ?? false),
    derived: new Map(),
    span: syntax.span,
    head: syntax.head,
  };
}

/** A kind stands in its base's table, in one of its own, or both. */
function tableOf(resolution: Resolution, syntax: EntitySyntax, base: EntityDraft | null, kinds: Kinds | null): Chosen<TableName> {
  const shares = kinds?.storage.kind === 'single table' || kinds?.storage.kind === 'json';
  if (base !== null && shares) {
    if (syntax.table !== null)
      wrong(
        resolution,
        'kind-table',
        syntax.table.span,
        `${syntax.name.text} stands in the table of ${kinds.root}, ${base.table.value.name}. Remove “in ${syntax.table.name.text}”, or store the kinds in joined tables.`,
      );
    return { value: base.table.value, origin: { kind: 'convention', rule: `all kinds of ${kinds.root} stand in its table` } };
  }
  if (syntax.table === null) {
    return {
      value: { schema: null, name: plural(snakeCase(syntax.name.text)) },
      origin: { kind: 'convention', rule: 'the plural of the entity’s name' },
    };
  }
  return {
    value: { schema: syntax.table.schema?.text ?? null, name: syntax.table.name.text },
    origin: { kind: 'stated', span: syntax.table.span },
  };
}

/** The kind beside this one that has a field in the same column of the table that they share; null where none has. */
function columnOfSibling({ sharedColumns }: Resolution, kinds: Kinds | null, field: Field): string | null {
  if (kinds?.storage.kind !== 'single table') return null;
  const columns = sharedColumns.get(kinds.root) ?? new Map<string, string>();
  sharedColumns.set(kinds.root, columns);
  const column = field.column.value.toLowerCase();
  const other = columns.get(column) ?? null;
  if (other === null) columns.set(column, field.owner);
  return other === field.owner ? null : other;
}

/** The columns that say what kind a row is, or hold what a kind has of its own. */
function reserved(kinds: Kinds | null): string[] {
  switch (kinds?.storage.kind) {
    case 'single table':
    case 'joined tables':
      return [kinds.storage.mark.toLowerCase()];
    case 'json':
      return [kinds.storage.mark.toLowerCase(), kinds.storage.column.toLowerCase()];
    default:
      return [];
  }
}

/** All kinds have the key of the base at the top. */
function keyOfKind(resolution: Resolution, syntax: EntitySyntax, base: EntityDraft): Key {
  for (const line of syntax.lines) {
    const own = line.kind === 'key' || (line.kind === 'field' && line.modifiers.some(({ kind }) => kind === 'key'));
    if (own)
      wrong(
        resolution,
        'kind-key',
        line.span,
        `${syntax.name.text} is a kind of ${base.name}, and has its key. Remove this key.`,
      );
  }
  return base.key;
}

function fitsKinds(resolution: Resolution, syntax: EntitySyntax, key: Key, kinds: Kinds | null): boolean {
  if (kinds?.storage.kind !== 'separate tables' || kinds.concrete.length < 2) return true;
  if (key.type.kind !== 'integer' && key.type.kind !== 'bigint') return true;
  const field = syntax.lines.find((line) => line.kind === 'field' && line.name.text === key.name);
  const type = field?.kind === 'field' ? field.type.span : null;
  wrong(
    resolution,
    'separate-key',
    field?.span ?? syntax.name.span,
    `${syntax.name.text}.${key.name}: each table would number its own rows, so ${kinds.concrete.map(({ entity }) => withArticle(entity)).join(' and ')} could have one key. Make it a uuid.`,
    type === null ? [] : [{ title: 'Make it a uuid', edits: [{ span: type, text: 'uuid' }] }],
  );
  return false;
}

function linesOf(
  resolution: Resolution,
  syntax: EntitySyntax,
): { lines: EntityLine[]; mixins: string[]; owners: Map<EntityLine, string> } {
  const lines: EntityLine[] = [];
  const mixins: string[] = [];
  const owners = new Map<EntityLine, string>();
  const take = (line: EntityLine, seen: readonly string[]) => {
    if (line.kind !== 'uses') {
      lines.push(line);
      return;
    }
    for (const name of line.mixins) {
      if (seen.includes(name.text)) {
        wrong(resolution, 'mixin-loop', name.span, `${name.text} takes itself in. Remove it from one of the two.`);
      } else if (!mixins.includes(name.text)) takeMixin(name, seen);
    }
  };
  const takeMixin = (name: Name, seen: readonly string[]) => {
    const mixin = resolution.mixins.get(name.text);
    if (mixin === undefined) {
      unknownName(resolution, name, 'mixin', resolution.mixins.keys());
      return;
    }
    refer(resolution.references, name, 'mixin');
    mixins.push(name.text);
    for (const line of mixin.lines) {
      const refused = line.kind === 'key' || line.kind === 'kinds' || line.kind === 'shown as';
      if (refused) continue;
      take(line, [...seen, name.text]);
      owners.set(line, name.text);
    }
  };
  for (const line of syntax.lines) take(line, []);
  return { lines, mixins, owners };
}

/** Lines without the derived fields whose name is another field's; each is told. */
function withoutDoubles(
  resolution: Resolution,
  entity: string,
  lines: readonly EntityLine[],
  {
    owners,
    fields,
    base,
  }: {
    readonly owners: ReadonlyMap<EntityLine, string>;
    readonly fields: ReadonlyMap<string, Field>;
    readonly base: EntityDraft | null;
  },
): readonly EntityLine[] {
  const taken = new Map<string, readonly [what: string, from: string]>(
    Array.from(fields, ([lower, { mixin, owner }]) => [lower, ['a field', mixin ?? owner]]),
  );
  const above = base === null ? [] : lineageOf(base);
  for (const one of above) for (const name of derivedNames(one)) taken.set(name, ['a derived field', one.name]);
  return lines.filter((line) => {
    if (line.kind !== 'derived') return true;
    const lower = line.name.text.toLowerCase();
    const known = taken.get(lower);
    if (known === undefined) {
      taken.set(lower, ['a derived field', owners.get(line) ?? entity]);
      return true;
    }
    const [what, from] = known;
    const message = `${entity}.${line.name.text} is ${what} already${from === entity ? '' : `, from ${from}`}. Give one of the two another name.`;
    wrong(resolution, 'name-clash', line.name.span, message);
    return false;
  });
}
