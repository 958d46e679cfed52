import type { EntitySyntax, Name, RelationSyntax, Sentence } from '../notation/index.js';
import type { ValueType } from '../values/index.js';
import { type EntityDraft, notBuilt, type Resolution, wrong } from './draft.js';
import { COMPOSITE_KEY, type Field, type Key, PLAIN_COLUMN } from './model.js';
import { refer } from './references.js';

/** The relations and keys of other entities from which a key may be made, beside its entity's own lines. */
export interface KeySources {
  readonly relations: readonly RelationSyntax[];
  /** The draft of another entity, made on demand, since a key may stand on another's. */
  draft(name: string): EntityDraft | null;
}

/** The names under which SQLite lets a row's own number be read (https://www.sqlite.org/rowidtable.html). */
const ROW_NUMBERS: readonly string[] = ['rowid', '_rowid_', 'oid'];

const NO_KEY_TYPES: readonly ValueType['kind'][] = ['json', 'bytes', 'real', 'boolean'];

/** The key of an entity: the field that says so, or the fields and roles of its line `key (…)`. */
export function resolveKey(
  resolution: Resolution,
  syntax: EntitySyntax,
  fields: readonly Field[],
  sources: KeySources,
): Key | null {
  const name = syntax.name.text;
  const marked = fields.filter((field) => field.key);
  const line = syntax.lines.find((candidate) => candidate.kind === 'key');
  const [first, second] = marked;
  if (line?.kind === 'key') {
    if (first !== undefined) {
      return wrong(
        resolution,
        'two-keys',
        first.span,
        `${name} names its key twice: the field ${first.name}, and key (${line.fields.map((field) => field.text).join(', ')}). Keep one.`,
      );
    }
    return compositeKey(resolution, syntax, line.fields, fields, sources, line.tail.named?.text ?? null);
  }
  if (first === undefined) {
    return wrong(
      resolution,
      'no-key',
      syntax.name.span,
      `${name} has no key, so nothing can point at its rows. Add a line like “id integer key”.`,
      [
        {
          title: 'Add id integer key',
          edits: [{ span: { start: syntax.head.end, end: syntax.head.end }, text: '\n  id integer key' }],
        },
      ],
    );
  }
  if (second !== undefined) {
    wrong(
      resolution,
      'two-keys',
      second.span,
      `${name} has more than one key field. Keep one, or write them as “key (${marked.map((field) => field.name).join(', ')})”.`,
    );
  }
  return fitsKey(resolution, name, first) ? keyOf([first]) : null;
}

/** The key that these fields make. */
export function keyOf(fields: readonly Field[], named: string | null = null, byRow = false): Key {
  const [first] = fields;
  if (first === undefined) throw new Error('a key needs a field');
  const columns = fields.map((field) => field.column.value);
  if (fields.length === 1) return { fields, columns, type: first.type, name: first.name, byRow, named };
  const type: ValueType = { kind: 'composite', parts: fields.map((field) => field.type) };
  return { fields, columns, type, name: COMPOSITE_KEY, byRow, named };
}

function fitsKey(resolution: Resolution, entity: string, field: Field): boolean {
  if (!NO_KEY_TYPES.includes(field.type.kind)) return true;
  wrong(
    resolution,
    'key-type',
    field.span,
    `${entity}.${field.name}: ${field.type.kind} cannot be a key. Use integer, bigint, uuid, text, a date, or decimal.`,
  );
  return false;
}

function compositeKey(
  resolution: Resolution,
  syntax: EntitySyntax,
  names: readonly Name[],
  fields: readonly Field[],
  sources: KeySources,
  named: string | null,
): Key | null {
  const entity = syntax.name.text;
  const parts: Field[] = [];
  for (const part of names) {
    const field = fields.find((candidate) => candidate.name === part.text);
    if (field !== undefined) refer(resolution.references, part, 'field', field.mixin ?? field.owner);
    const found = field === undefined ? partsOfRole(resolution, syntax, part, sources) : [field];
    if (found === null) {
      if (names.length === 1 && ROW_NUMBERS.includes(part.text)) return keyOf([rowNumber(entity, part)], null, true);
      return wrong(
        resolution,
        'unknown-key-part',
        part.span,
        `${entity} has no field ${part.text}, and no relation “${entity} knows one … as ${part.text}”, for its key to stand on.`,
      );
    }
    for (const field of found) {
      if (!fitsKey(resolution, entity, field)) return null;
      if (parts.some((other) => other.column.value === field.column.value))
        return wrong(resolution, 'named-twice', part.span, `${entity}: its key names ${part.text} twice. Remove one.`);
      parts.push(field);
    }
  }
  return keyOf(parts, named);
}

/** The columns of a role that is part of the key: of its target's key, under the names that the relation gives them. */
function partsOfRole(
  resolution: Resolution,
  syntax: EntitySyntax,
  part: Name,
  { relations, draft }: KeySources,
): readonly Field[] | null {
  const entity = syntax.name.text;
  for (const relation of relations) {
    const sentence = relation.lines.find(
      (line): line is Sentence =>
        line.kind === 'sentence' &&
        line.role.text === part.text &&
        line.subjects?.length === 1 &&
        line.subjects[0]?.text === entity,
    );
    const target = sentence?.targets[0];
    if (sentence === undefined || target === undefined || sentence.knows !== 'one') continue;
    const parent = draft(target.text);
    if (parent === null) {
      notBuilt(resolution, part.span, `${entity}, whose key stands on ${target.text}`);
      return null;
    }
    refer(resolution.references, part, 'role', entity);
    const columns = storedColumns(relation, entity) ?? conventionalColumns(part.text, parent.key);
    return parent.key.fields.map((field, index) => ({
      ...field,
      name: columns[index] ?? '',
      column: { value: columns[index] ?? '', origin: { kind: 'convention', rule: `the key of ${parent.name}` } },
      key: false,
      unique: null,
      default: null,
      physical: PLAIN_COLUMN,
      owner: entity,
      span: part.span,
    }));
  }
  return null;
}

function storedColumns(relation: RelationSyntax, entity: string): string[] | null {
  for (const line of relation.lines) {
    if (line.kind !== 'stored') continue;
    const { store } = line;
    if (store.kind === 'column' && store.entity.text === entity) return [store.column.text];
    if (store.kind === 'composite' && store.entity.text === entity) return store.columns.map((column) => column.text);
  }
  return null;
}

/** The columns of a role by convention: `ROLE_id`, or `ROLE_<part>` for each part of a composite key. */
export function conventionalColumns(role: string, key: Key): string[] {
  return key.fields.length === 1 ? [`${role}_id`] : key.fields.map((field) => `${role}_${field.column.value}`);
}

function rowNumber(entity: string, name: Name): Field {
  return {
    name: name.text,
    type: { kind: 'bigint' },
    column: { value: name.text, origin: { kind: 'convention', rule: 'the number that SQLite gives each row' } },
    required: true,
    key: true,
    unique: null,
    default: null,
    allowed: null,
    onUpdateNow: false,
    physical: PLAIN_COLUMN,
    hidden: false,
    internal: false,
    fixed: false,
    title: null,
    note: null,
    mixin: null,
    owner: entity,
    span: name.span,
  };
}
