/** What a card says of an entity or a relation, in words and SQL: sentences, storage and why, what a delete does. */
import type { Design } from '../design/index.js';
import {
  type Entity,
  entityOf,
  isPivot,
  isPolymorphic,
  type KeyRelation,
  type Model,
  type Origin,
  type PivotRelation,
  type PolymorphicRole,
  plural,
  type Relation,
  type Role,
  storedColumnsOf,
} from '../model/index.js';
import { quoteText, type Span, withArticle } from '../notation/index.js';
import { foreignTarget, type Table } from '../schema/index.js';
import { type DefaultValue, typeName, type ValueType } from '../values/index.js';
import {
  type Card,
  type EntityCard,
  type FieldCard,
  type RelationCard,
  type SentenceCard,
  type StorageCard,
  storage,
  type WallCard,
} from './card.js';
import { joinsOf } from './joins.js';
import { polymorphicDeletes, polymorphicStorage } from './polymorphic.js';
import { THEN, words } from './words.js';

export type { Card, EntityCard, FieldCard, RelationCard, SentenceCard, StorageCard, WallCard } from './card.js';

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
  readonly roles: ReadonlyMap<string, readonly (Role | PolymorphicRole)[]>;
}

function lookupOf({ model, schema }: Design): Lookup {
  const roles = new Map<string, (Role | PolymorphicRole)[]>();
  for (const entity of model.entities.values()) {
    for (const role of [...entity.roles, ...entity.polymorphic]) {
      // A kind has its base’s roles, which are the base’s.
      if (role.entity !== entity.name) continue;
      const list = roles.get(role.relation);
      if (list === undefined) roles.set(role.relation, [role]);
      else list.push(role);
    }
  }
  return { tables: new Map(schema.tables.map((table) => [table.name.name, table])), roles };
}

function entityCard({ model, dialect, text }: Design, { tables }: Lookup, entity: Entity): EntityCard {
  const table = tables.get(entity.table.value.name);
  const statements = table === undefined ? [] : dialect.createStatements({ prelude: [], tables: [table], others: [] });
  return {
    kind: 'entity',
    name: entity.name,
    note: entity.note,
    table: storage(entity.table.value.name, '', entity.table.origin),
    fields: [
      ...entity.fields.map(
        (field): FieldCard => ({
          name: field.name,
          type: typeName(field.type),
          column: field.column.value,
          note: field.note,
          derived: false,
          key: field.key,
          optional: !field.required,
          default: field.default === null ? null : literalOf(field.type, field.default),
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
          key: false,
          optional: false,
          default: null,
          marks: [`= ${text.slice(derived.expression.span.start, derived.expression.span.end)}`, 'computed when read'],
        }),
      ),
    ],
    sentences: [...entity.roles, ...entity.polymorphic].map((role) => sentenceOf(model, role)),
    paths: entity.paths.map((path) => ({
      name: path.name,
      text: text.slice(path.span.start, path.span.end).replace(/^path \S+ = /, ''),
      target: path.target,
      many: path.knows === 'many',
    })),
    walls: wallsOn(model, text, entity),
    kinds: entity.kinds === null ? null : { ...entity.kinds, mark: entity.kinds.abstract ? null : entity.kinds.mark },
    given: entity.given,
    sql: statements.map((statement) => `${statement};`).join('\n\n'),
    span: entity.span,
  };
}

function wallsOn(model: Model, text: string, { name }: Entity): readonly WallCard[] {
  const words = ({ start, end }: Span) => text.slice(start, end).replace(/\s+/g, ' ');
  return Array.from(model.walls.values()).flatMap(({ name: wall, reads, writes, conditions, unless }) => {
    const lines = (conditions.get(name) ?? []).map(({ kinds, holds }) => {
      const line = words(holds.span);
      return kinds === null ? line : `${kinds.join(', ')}: ${line}`;
    });
    if (lines.length === 0) return [];
    const on = reads && writes ? null : reads ? 'read' : 'write';
    return [{ name: wall, on, lines, unless: unless.map(({ span }) => words(span)) }];
  });
}

/** A default as a person reads it; numbers of many digits travel as text, and are shown as numbers. */
function defaultWord(type: ValueType, value: DefaultValue): string {
  if (value.kind === 'sql') return value.sql;
  if (value.kind !== 'value') return value.kind;
  const exact = (type.kind === 'decimal' || type.kind === 'bigint') && typeof value.value === 'string';
  return exact ? String(value.value) : JSON.stringify(value.value);
}

/** A default as the notation writes it. */
function literalOf(type: ValueType, value: DefaultValue): string {
  const isText = value.kind === 'value' && typeof value.value === 'string' && type.kind !== 'decimal' && type.kind !== 'bigint';
  return isText ? quoteText(String(value.value)) : defaultWord(type, value);
}

function relationCard(design: Design, { tables, roles: byRelation }: Lookup, relation: Relation): RelationCard {
  const { model } = design;
  const tableName = 'table' in relation ? relation.table.value.name : entityOf(model, relation.child).table.value.name;
  const table = tables.get(tableName);
  // One sentence may speak for several, which then stand in the order in which they are named.
  const named = 'targets' in relation ? relation.targets.map(({ entity }) => entity) : [];
  const roles = [...(byRelation.get(relation.name) ?? [])].sort(
    (a, b) => a.span.start - b.span.start || named.indexOf(a.entity) - named.indexOf(b.entity),
  );
  return {
    kind: 'relation',
    name: relation.name,
    form: relation.form,
    note: relation.note,
    sentences: roles.map((role) => sentenceOf(model, role)),
    sql: table === undefined ? '' : sqlOf(design, relation, table),
    ...partsOf(design, relation),
    joins: joinsOf(design, relation, roles),
    span: relation.span,
  };
}

/** What of a card differs from form to form. */
function partsOf(design: Design, relation: Relation): Pick<RelationCard, 'storage' | 'deletes'> {
  const { model } = design;
  switch (relation.kind) {
    case 'key':
      return { storage: keyStorage(model, relation), deletes: [keyDelete(relation)] };
    case 'pivot':
      return { storage: pivotStorage(model, relation), deletes: pivotDeletes(relation) };
    case 'polymorphic':
    case 'polymorphic pivot':
      return {
        storage: polymorphicStorage(design, relation),
        deletes: polymorphicDeletes(relation),
      };
  }
}

/** What stands in the database for a relation: its columns, or the pivot’s table; and the triggers that keep it. */
function sqlOf(design: Design, relation: Relation, table: Table): string {
  const { dialect } = design;
  if (isPivot(relation)) {
    const statements = dialect.createStatements({ prelude: [], tables: [{ ...table, triggers: [] }], others: [] });
    return [...statements, ...triggersOf(relation, design)].map(dialect.ended).join('\n\n');
  }
  const columns = storedColumnsOf(relation).map(({ value }) => value);
  const parts = [columns, ...(relation.kind === 'key' ? [] : columns.map((column) => [column]))];
  const lines = Array.from(new Set(parts.flatMap((some) => dialect.columnParts(table, some))));
  return [lines.join('\n'), ...triggersOf(relation, design).map(dialect.ended)].join('\n\n');
}

/** The statements of the triggers that keep a relation to rows of several entities. */
function triggersOf(relation: Relation, { dialect, schema }: Design): string[] {
  if (!isPolymorphic(relation)) return [];
  const triggers = schema.tables.flatMap((table) => table.triggers);
  return triggers.flatMap((one) => (one.kind === 'made' && one.relation === relation.name ? dialect.trigger(one.trigger) : []));
}

function sentenceOf(model: Model, role: Role | PolymorphicRole): SentenceCard {
  return {
    subject: role.entity,
    knows: role.knows,
    targets: 'branches' in role ? role.branches.map(({ target }) => target) : [role.target],
    role: role.name,
    relation: role.relation,
    note: role.note,
    bothWays: model.relations.get(role.relation)?.form === 'symmetric',
  };
}

const NOWHERE: Origin = { kind: 'convention', rule: 'no column' };

/** Columns of an entity's table, as a person writes them. */
function place(entity: Entity, columns: readonly string[]): string {
  return `${entity.table.value.name}.${columns.length === 1 ? columns[0] : `(${columns.join(', ')})`}`;
}

/** The key that another points at; where the rows stand in several tables, in each of them. */
function targetPlace(model: Model, entity: Entity): string {
  const target = foreignTarget(model, entity.name);
  return target.kind === 'table'
    ? place(entity, entity.key.columns)
    : `the key of ${entity.name}, in ${target.tables.map(({ name }) => name).join(' or ')}`;
}

function keyStorage(model: Model, relation: KeyRelation): StorageCard[] {
  const [child, parent] = [entityOf(model, relation.child), entityOf(model, relation.parent)];
  const held = place(
    child,
    relation.columns.map((column) => column.value),
  );
  const more = [relation.required ? 'not null' : 'may be null', ...(relation.form === 'one-to-one' ? ['unique'] : [])];
  return [storage(held, ` → ${targetPlace(model, parent)}, ${more.join(', ')}`, relation.columns[0]?.origin ?? NOWHERE)];
}

function pivotStorage(model: Model, relation: PivotRelation): StorageCard[] {
  const { name } = relation.table.value;
  const pair = relation.repeats ? 'a pair may repeat' : 'each pair once';
  return [
    storage(`table ${name}`, `, ${pair}`, relation.table.origin),
    ...relation.ends.map((end) => {
      const target = entityOf(model, end.entity);
      const held = end.columns.map((column) => column.value);
      return storage(
        `${name}.${held.length === 1 ? held[0] : `(${held.join(', ')})`}`,
        ` → ${targetPlace(model, target)}`,
        end.columns[0]?.origin ?? NOWHERE,
      );
    }),
  ];
}

function keyDelete(relation: KeyRelation): RelationCard['deletes'][number] {
  const things = relation.form === 'one-to-one' ? words(relation.child) : plural(words(relation.child));
  const stated = relation.onDelete.origin.kind === 'stated';
  const then = THEN[relation.onDelete.value](things).replace(
    relation.form === 'one-to-one' ? / go with it$/ : /$^/,
    ' goes with it',
  );
  return { when: `When ${withArticle(words(relation.parent))} is deleted`, then, rule: relation.onDelete.value, stated };
}

function pivotDeletes(relation: PivotRelation): RelationCard['deletes'] {
  const ends = relation.ends[0].entity === relation.ends[1].entity ? [relation.ends[0]] : relation.ends;
  return ends.map((end) => ({
    when: `When ${withArticle(words(end.entity))} is deleted`,
    then: THEN[relation.onDelete.value](`rows in ${relation.table.value.name}`),
    rule: relation.onDelete.value,
    stated: relation.onDelete.origin.kind === 'stated',
  }));
}
