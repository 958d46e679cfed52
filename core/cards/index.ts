/** What a card says of an entity or a relation, in words and SQL: sentences, storage and why, what a delete does. */
import type { Design } from '../design/index.js';
import type { Dialect } from '../dialects/index.js';
import {
  type Entity,
  entityOf,
  type KeyRelation,
  type Model,
  type Origin,
  type PivotRelation,
  plural,
  type Relation,
  type Role,
  snakeCase,
} from '../model/index.js';
import type { DeleteRule, Knows, Span } from '../notation/index.js';
import type { Table } from '../schema/index.js';
import { type DefaultValue, typeName, type ValueType } from '../values/index.js';

export interface SentenceCard {
  readonly subject: string;
  readonly knows: Knows;
  readonly target: string;
  readonly role: string;
  readonly bothWays: boolean;
  readonly relation: string;
  readonly note: string | null;
}

export interface FieldCard {
  readonly name: string;
  readonly type: string;
  readonly column: string;
  readonly marks: readonly string[];
  readonly note: string | null;
  readonly derived: boolean;
}

/** Something that is stored, and why there. */
export interface StorageCard {
  readonly text: string;
  readonly why: string;
  readonly stated: boolean;
}

export interface EntityCard {
  readonly kind: 'entity';
  readonly name: string;
  readonly note: string | null;
  readonly table: StorageCard;
  readonly fields: readonly FieldCard[];
  readonly sentences: readonly SentenceCard[];
  readonly sql: string;
  readonly span: Span;
}

export interface RelationCard {
  readonly kind: 'relation';
  readonly name: string;
  readonly form: Relation['form'];
  readonly note: string | null;
  readonly sentences: readonly SentenceCard[];
  readonly storage: readonly StorageCard[];
  /** What a delete of each end does, in words. */
  readonly deletes: readonly {
    readonly when: string;
    readonly then: string;
    readonly rule: DeleteRule;
    readonly stated: boolean;
  }[];
  /** What stands in the database for it: the key column, or the pivot's table. */
  readonly sql: string;
  /** The join from each end to the other. */
  readonly joins: readonly { readonly from: string; readonly sql: string }[];
  readonly span: Span;
}

export type Card = EntityCard | RelationCard;

/** The cards of everything in a design. */
export function cardsOf(design: Design): Card[] {
  const { model } = design;
  const lookup = lookupOf(design);
  return [
    ...Array.from(model.entities.values(), (entity) => entityCard(design, lookup, entity)),
    ...Array.from(model.relations.values(), (relation) => relationCard(design, lookup, relation)),
  ];
}

/** The card of one entity or relation; null where the model has none of that name. */
export function cardOf(design: Design, kind: Card['kind'], name: string): Card | null {
  const lookup = lookupOf(design);
  const entity = kind === 'entity' ? design.model.entities.get(name) : undefined;
  const relation = kind === 'relation' ? design.model.relations.get(name) : undefined;
  if (entity !== undefined) return entityCard(design, lookup, entity);
  return relation === undefined ? null : relationCard(design, lookup, relation);
}

/** Tables by name and roles by relation, so that many cards cost no more than each of them. */
interface Lookup {
  readonly tables: ReadonlyMap<string, Table>;
  readonly roles: ReadonlyMap<string, readonly Role[]>;
}

function lookupOf({ model, schema }: Design): Lookup {
  const roles = new Map<string, Role[]>();
  for (const entity of model.entities.values()) {
    for (const role of entity.roles) {
      const list = roles.get(role.relation);
      if (list === undefined) roles.set(role.relation, [role]);
      else list.push(role);
    }
  }
  return { tables: new Map(schema.tables.map((table) => [table.name.name, table])), roles };
}

function entityCard({ model, dialect }: Design, { tables }: Lookup, entity: Entity): EntityCard {
  const table = tables.get(entity.table.value.name);
  const statements = table === undefined ? [] : dialect.createStatements({ prelude: [], tables: [table], others: [] });
  return {
    kind: 'entity',
    name: entity.name,
    note: entity.note,
    table: storage(entity.table.value.name, entity.table.origin),
    fields: [
      ...entity.fields.map(
        (field): FieldCard => ({
          name: field.name,
          type: typeName(field.type),
          column: field.column.value,
          note: field.note,
          derived: false,
          marks: [
            ...(field.key ? ['key'] : entity.key.columns.includes(field.column.value) ? ['part of the key'] : []),
            ...(field.required ? [] : ['optional']),
            ...(field.unique === null ? [] : ['unique']),
            ...(field.default === null ? [] : [`default ${defaultWord(field.type, field.default)}`]),
            ...(field.hidden ? ['hidden'] : []),
            ...(field.internal ? ['internal'] : []),
            ...(field.fixed ? ['fixed'] : []),
            ...(field.title === null ? [] : [`“${field.title}”`]),
            ...(field.mixin === null ? [] : [`from ${field.mixin}`]),
          ],
        }),
      ),
      ...entity.derived.map(
        (derived): FieldCard => ({
          name: derived.name,
          type: 'derived',
          column: '',
          note: derived.note,
          derived: true,
          marks: ['computed when read'],
        }),
      ),
    ],
    sentences: entity.roles.map((role) => ({
      subject: role.entity,
      knows: role.knows,
      target: role.target,
      role: role.name,
      relation: role.relation,
      note: role.note,
      bothWays: model.relations.get(role.relation)?.form === 'symmetric',
    })),
    sql: statements.map((statement) => `${statement};`).join('\n\n'),
    span: entity.span,
  };
}

/** A default as a person reads it; numbers of many digits travel as text, and are shown as numbers. */
function defaultWord(type: ValueType, value: DefaultValue): string {
  if (value.kind === 'sql') return value.sql;
  if (value.kind !== 'value') return value.kind;
  const exact = (type.kind === 'decimal' || type.kind === 'bigint') && typeof value.value === 'string';
  return exact ? String(value.value) : JSON.stringify(value.value);
}

function relationCard(design: Design, { tables, roles: byRelation }: Lookup, relation: Relation): RelationCard {
  const { model, dialect } = design;
  const tableName = relation.kind === 'pivot' ? relation.table.value.name : entityOf(model, relation.child).table.value.name;
  const table = tables.get(tableName);
  const roles = [...(byRelation.get(relation.name) ?? [])].sort((a, b) => a.span.start - b.span.start);
  return {
    kind: 'relation',
    name: relation.name,
    form: relation.form,
    note: relation.note,
    sentences: roles.map((role) => ({
      subject: role.entity,
      knows: role.knows,
      target: role.target,
      role: role.name,
      relation: relation.name,
      note: role.note,
      bothWays: relation.form === 'symmetric',
    })),
    storage: relation.kind === 'key' ? keyStorage(model, relation) : pivotStorage(model, relation),
    deletes: relation.kind === 'key' ? [keyDelete(relation)] : pivotDeletes(relation),
    sql:
      table === undefined
        ? ''
        : relation.kind === 'pivot'
          ? dialect
              .createStatements({ prelude: [], tables: [table], others: [] })
              .map(dialect.ended)
              .join('\n\n')
          : dialect
              .columnParts(
                table,
                relation.columns.map((column) => column.value),
              )
              .join('\n'),
    joins: relation.kind === 'key' ? keyJoins(design, relation) : pivotJoins(design, relation),
    span: relation.span,
  };
}

function storage(text: string, origin: Origin): StorageCard {
  return origin.kind === 'stated'
    ? { text, why: 'stated', stated: true }
    : { text, why: `by convention: ${origin.rule}`, stated: false };
}

const NOWHERE: Origin = { kind: 'convention', rule: 'no column' };

/** Columns of an entity's table, as a person writes them. */
function place(entity: Entity, columns: readonly string[]): string {
  return `${entity.table.value.name}.${columns.length === 1 ? columns[0] : `(${columns.join(', ')})`}`;
}

/** The condition that joins two keys, part by part. */
function matched({ quote }: Dialect, left: string, lefts: readonly string[], right: string, rights: readonly string[]): string {
  return lefts.map((name, index) => `${left}.${quote(name)} = ${right}.${quote(rights[index] ?? '')}`).join(' and ');
}

function keyStorage(model: Model, relation: KeyRelation): StorageCard[] {
  const [child, parent] = [entityOf(model, relation.child), entityOf(model, relation.parent)];
  const text = `${place(
    child,
    relation.columns.map((column) => column.value),
  )} → ${place(parent, parent.key.columns)}`;
  const more = [relation.required ? 'not null' : 'may be null', ...(relation.form === 'one-to-one' ? ['unique'] : [])];
  return [{ ...storage(`${text}, ${more.join(', ')}`, relation.columns[0]?.origin ?? NOWHERE) }];
}

function pivotStorage(model: Model, relation: PivotRelation): StorageCard[] {
  const { name } = relation.table.value;
  const pair = relation.repeats ? 'a pair may repeat' : 'each pair once';
  return [
    storage(`table ${name}, ${pair}`, relation.table.origin),
    ...relation.ends.map((end) => {
      const target = entityOf(model, end.entity);
      const held = end.columns.map((column) => column.value);
      return storage(
        `${name}.${held.length === 1 ? held[0] : `(${held.join(', ')})`} → ${place(target, target.key.columns)}`,
        end.columns[0]?.origin ?? NOWHERE,
      );
    }),
  ];
}

const THEN: Readonly<Record<DeleteRule, (things: string) => string>> = {
  cascade: (things) => `its ${things} go with it`,
  restrict: (things) => `refused while it has ${things}`,
  'set null': (things) => `its ${things} stay, and their key is emptied`,
  'set default': (things) => `its ${things} stay, and their key falls back to its default`,
  'no action': (things) => `refused while it has ${things}, looked at when the statement ends`,
};

function withArticle(entity: string): string {
  return `${/^[AEIOU]/.test(entity) ? 'an' : 'a'} ${words(entity)}`;
}

function words(entity: string): string {
  return snakeCase(entity).replaceAll('_', ' ');
}

function keyDelete(relation: KeyRelation): RelationCard['deletes'][number] {
  const things = relation.form === 'one-to-one' ? words(relation.child) : plural(words(relation.child));
  const stated = relation.onDelete.origin.kind === 'stated';
  const then = THEN[relation.onDelete.value](things).replace(
    relation.form === 'one-to-one' ? / go with it$/ : /$^/,
    ' goes with it',
  );
  return { when: `When ${withArticle(relation.parent)} is deleted`, then, rule: relation.onDelete.value, stated };
}

function pivotDeletes(relation: PivotRelation): RelationCard['deletes'] {
  const ends = relation.ends[0].entity === relation.ends[1].entity ? [relation.ends[0]] : relation.ends;
  return ends.map((end) => ({
    when: `When ${withArticle(end.entity)} is deleted`,
    then: THEN[relation.onDelete.value](`rows in ${relation.table.value.name}`),
    rule: relation.onDelete.value,
    stated: relation.onDelete.origin.kind === 'stated',
  }));
}

function keyJoins({ model, dialect }: Design, relation: KeyRelation): RelationCard['joins'] {
  const { quote } = dialect;
  const [child, parent] = [entityOf(model, relation.child), entityOf(model, relation.parent)];
  const self = child === parent;
  const childTable = quote(child.table.value.name);
  const parentTable = quote(parent.table.value.name);
  const up = self ? quote(relation.childRole ?? 'parent') : parentTable;
  const down = self ? quote(relation.parentRole ?? 'child') : childTable;
  const on = (childAlias: string, parentAlias: string) =>
    matched(
      dialect,
      parentAlias,
      parent.key.columns,
      childAlias,
      relation.columns.map((column) => column.value),
    );
  const kind = relation.required ? 'join' : 'left join';
  return [
    { from: child.name, sql: `from ${childTable}\n${kind} ${parentTable}${self ? ` ${up}` : ''}\n  on ${on(childTable, up)}` },
    {
      from: parent.name,
      sql: `from ${parentTable}\nleft join ${childTable}${self ? ` ${down}` : ''}\n  on ${on(down, parentTable)}`,
    },
  ];
}

function pivotJoins({ model, dialect }: Design, relation: PivotRelation): RelationCard['joins'] {
  const { quote } = dialect;
  const pivot = quote(relation.table.value.name);
  const [first, second] = relation.ends;
  const names = (end: typeof first) => end.columns.map((column) => column.value);
  const join = (near: typeof first, far: typeof first) => {
    const [a, b] = [entityOf(model, near.entity), entityOf(model, far.entity)];
    const alias = a === b ? quote(far.role ?? 'other') : quote(b.table.value.name);
    const source = a === b ? `${quote(b.table.value.name)} ${alias}` : alias;
    return {
      from: near.entity,
      sql: `from ${quote(a.table.value.name)}\nleft join ${pivot}\n  on ${matched(dialect, pivot, names(near), quote(a.table.value.name), a.key.columns)}\nleft join ${source}\n  on ${matched(dialect, alias, b.key.columns, pivot, names(far))}`,
    };
  };
  return first.entity === second.entity ? [join(first, second)] : [join(first, second), join(second, first)];
}
