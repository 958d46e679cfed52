import {
  type AnyPivotRelation,
  entityOf,
  type KeyColumn,
  type KeyRelation,
  type Model,
  type PolymorphicPivotRelation,
  type PolymorphicRelation,
  type PolymorphicTarget,
  tableEntity,
} from '../../model/index.js';
import type { DeleteRule } from '../../notation/index.js';
import type { ValueType } from '../../values/index.js';
import { type EntityTables, foreignTarget, holdersOf } from '../holders.js';
import type { TableBuilder } from '../tables.js';

/** Rows that are marked with one of these values in a column. */
export interface Among {
  readonly column: string;
  readonly values: readonly string[];
}

/** A table in which what is pointed at may stand. */
export interface TargetTable {
  readonly entity: string;
  /** Null where the table is somebody else's: it is looked at, and nothing is put on it. */
  readonly table: TableBuilder | null;
  readonly name: TableBuilder['name'];
  readonly key: readonly string[];
  /** The kinds that are meant, where rows of others stand in the same table. */
  readonly among: Among | null;
}

/** Key columns of which a foreign key cannot keep all that they promise: triggers do. */
export interface Link {
  /** What it is called in a message, as `Remark.subject`. */
  readonly label: string;
  /** The stem of the triggers' names. */
  readonly name: string;
  readonly table: TableBuilder;
  readonly columns: readonly string[];
  /** The rows of the table that it speaks of: those whose type says so. */
  readonly when: Among | null;
  readonly types: readonly ValueType[];
  /** The type that the column holds keys as, where it is not the key's own. */
  readonly held: ValueType | null;
  /** One of these has the row. */
  readonly places: readonly TargetTable[];
  /** A foreign key keeps that the row is there, and carries the rules out; only its kind is left to be kept. */
  readonly keyed: boolean;
  /** What is emptied by “set null”. */
  readonly emptied: readonly string[];
  readonly onDelete: DeleteRule;
  readonly onUpdate: DeleteRule;
}

type Rules = Pick<Link, 'onDelete' | 'onUpdate'>;

function placesOf(model: Model, tables: EntityTables, name: string): TargetTable[] {
  const entity = entityOf(model, name);
  const target = foreignTarget(model, name);
  const key = entity.key.columns;
  if (target.kind === 'table') {
    const apart = entity.kinds?.storage.kind === 'separate tables' ? entity.kinds.concrete[0]?.entity : undefined;
    const owner = apart ?? tableEntity(model, name, name);
    const table = entity.given ? null : (tables.get(owner) ?? null);
    return [{ entity: name, table, name: target.table, key, among: target.among }];
  }
  return (entity.kinds?.concrete ?? []).map((kind) => ({
    entity: kind.entity,
    table: entity.given ? null : (tables.get(kind.entity) ?? null),
    name: entityOf(model, kind.entity).table.value,
    key,
    among: null,
  }));
}

/** Can a foreign key keep all of it: one table, in which all rows are meant? */
function isWhole(places: readonly TargetTable[]): boolean {
  return places.length === 1 && places[0]?.among === null;
}

function typesOf(model: Model, name: string): ValueType[] {
  return entityOf(model, name).key.fields.map(({ type }) => type);
}

function rulesOf({ onDelete, onUpdate }: KeyRelation | PolymorphicRelation | AnyPivotRelation): Rules {
  return { onDelete: onDelete.value, onUpdate: onUpdate.value };
}

/** The links of a key to rows that stand in several tables, or among others. */
export function keyLinks(model: Model, tables: EntityTables, relation: KeyRelation): Link[] {
  const places = placesOf(model, tables, relation.parent);
  if (isWhole(places)) return [];
  const columns = relation.columns.map(({ value }) => value);
  return holdersOf(model, tables, relation.child).map(({ table }) => ({
    label: `${relation.child}.${relation.childRole ?? columns.join(', ')}`,
    name: relation.childRole ?? columns.join('_'),
    table,
    columns,
    when: null,
    types: typesOf(model, relation.parent),
    held: null,
    places,
    keyed: places.length === 1,
    emptied: columns,
    ...rulesOf(relation),
  }));
}

/** The links of a key to rows of several entities. */
export function polymorphicLinks(model: Model, tables: EntityTables, relation: PolymorphicRelation): Link[] {
  const { storage } = relation;
  const label = `${relation.child}.${relation.childRole ?? relation.name}`;
  const name = relation.childRole ?? relation.name;
  return holdersOf(model, tables, relation.child).flatMap(({ table }) => {
    if (storage.kind === 'type and id') {
      const { type, id } = storage;
      const common = { label, name, table, columns: [id.value], emptied: [type.value, id.value], ...rulesOf(relation) };
      return storage.triggers ? typedLinks(model, tables, relation, storage.idType, type.value, common) : [];
    }
    const stem = (column: string) => `${name}_${column}`;
    return oneOfLinks(model, tables, relation, storage.columns, { table, label: () => label, stem });
  });
}

/** One key column for each target. */
function oneOfLinks(
  model: Model,
  tables: EntityTables,
  relation: PolymorphicRelation | PolymorphicPivotRelation,
  columns: readonly KeyColumn[],
  { table, label, stem }: Pick<Link, 'table'> & Readonly<Record<'label' | 'stem', (column: string) => string>>,
): Link[] {
  return relation.targets.flatMap((target, index): Link[] => {
    const places = placesOf(model, tables, target.entity);
    const column = columns[index]?.value ?? '';
    if (isWhole(places)) return [];
    return [
      {
        label: label(column),
        name: stem(column),
        table,
        columns: [column],
        when: null,
        types: typesOf(model, target.entity),
        held: null,
        places,
        keyed: places.length === 1,
        emptied: [column],
        ...rulesOf(relation),
      },
    ];
  });
}

function typedLinks(
  model: Model,
  tables: EntityTables,
  { targets }: Pick<PolymorphicRelation | PolymorphicPivotRelation, 'targets'>,
  idType: ValueType,
  type: string,
  common: Pick<Link, 'label' | 'name' | 'table' | 'columns' | 'emptied' | 'onDelete' | 'onUpdate'>,
): Link[] {
  const link = ({ entity }: PolymorphicTarget, values: readonly string[], places: readonly TargetTable[]): Link => {
    const types = typesOf(model, entity);
    const held = JSON.stringify(types[0]) === JSON.stringify(idType) ? null : idType;
    return { ...common, when: { column: type, values }, types, held, places, keyed: false };
  };
  return targets.flatMap((target) => {
    const places = placesOf(model, tables, target.entity);
    // Each kind that has a table of its own has a mark of its own.
    if (places.length === 1)
      return [
        link(
          target,
          target.marks.map(({ mark }) => mark),
          places,
        ),
      ];
    return target.marks.map(({ entity, mark }) =>
      link(
        target,
        [mark],
        places.filter((place) => place.entity === entity),
      ),
    );
  });
}

/** The links of a pivot's ends. */
export function pivotLinks(
  model: Model,
  tables: EntityTables,
  all: ReadonlyMap<string, TableBuilder>,
  relation: AnyPivotRelation,
): Link[] {
  const { schema, name } = relation.table.value;
  const table = all.get(`${schema ?? ''}.${name}`.toLowerCase());
  if (table === undefined || relation.entity !== null || relation.given) return [];
  const ends = relation.kind === 'pivot' ? relation.ends : [relation.near];
  const links = ends.flatMap((end): Link[] => {
    const places = placesOf(model, tables, end.entity);
    if (isWhole(places)) return [];
    const columns = end.columns.map(({ value }) => value);
    const label = `${name}.${columns.join(', ')}`;
    const types = typesOf(model, end.entity);
    const keyed = places.length === 1;
    return [
      {
        label,
        name: columns.join('_'),
        table,
        columns,
        when: null,
        types,
        held: null,
        places,
        keyed,
        emptied: columns,
        ...rulesOf(relation),
      },
    ];
  });
  if (relation.kind === 'pivot') return links;
  const { storage } = relation;
  if (storage.kind === 'one of') {
    const label = (column: string) => `${name}.${column}`;
    return [...links, ...oneOfLinks(model, tables, relation, storage.columns, { table, label, stem: (column) => column })];
  }
  if (!storage.triggers) return links;
  const { type, id, idType } = storage;
  const common = {
    label: `${name}.${id.value}`,
    name: id.value,
    table,
    columns: [id.value],
    emptied: [id.value],
    ...rulesOf(relation),
  };
  return [...links, ...typedLinks(model, tables, relation, idType, type.value, common)];
}
