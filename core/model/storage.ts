import type { ValueType } from '../values/index.js';
import { type AnyPivotRelation, entityOf, type Model, type Relation } from './model.js';

/** A key that a relation stores: whose it is, and where it stands. */
export interface StoredKey {
  /** The entity whose key it is. */
  readonly target: string;
  /** The role of that entity over the relation; null where nobody named it. */
  readonly role: string | null;
  /** One column for each part of the key. */
  readonly columns: readonly StoredColumn[];
  /** Where the same columns hold keys of several entities: what a column beside them says of this one's. */
  readonly mark: { readonly column: string; readonly marks: readonly string[] } | null;
  /** The type in which the columns hold keys of several entities; null where they hold this entity's own. */
  readonly heldAs: ValueType | null;
  /** No two rows may hold the same. */
  readonly once: boolean;
}

/** A column in which a relation stores (a part of) a key, or a mark. */
export interface StoredColumn {
  readonly name: string;
  /** A field of the text declares it, too. */
  readonly declared: boolean;
}

/** Where a relation is stored. */
export interface Holdings {
  /** The entity whose rows hold the keys; null for pairs that are rows of no entity. */
  readonly holder: string | null;
  /** The table of pairs; null where the keys stand in the holder's own rows. */
  readonly pairs: AnyPivotRelation['table']['value'] | null;
  /** All keys: of a key for each of several entities one after the other, and so of keys in the same columns. */
  readonly keys: readonly StoredKey[];
}

/** Where a relation is stored: the one place that knows it of every form. */
export function holdingsOf(relation: Relation): Holdings {
  switch (relation.kind) {
    case 'key': {
      const { child, parent, parentRole, columns, form } = relation;
      const key = { target: parent, role: parentRole, columns: columns.map(keyColumn), once: form === 'one-to-one' };
      return { holder: child, pairs: null, keys: [{ ...key, mark: null, heldAs: null }] };
    }
    case 'polymorphic':
      return { holder: relation.child, pairs: null, keys: keysOfTargets(relation) };
    case 'pivot': {
      const keys = relation.ends.map(({ entity, role, columns }) => ({ target: entity, role, columns: columns.map(pairColumn) }));
      return {
        holder: relation.entity,
        pairs: relation.table.value,
        keys: keys.map((key) => ({ ...key, mark: null, heldAs: null, once: false })),
      };
    }
    case 'polymorphic pivot': {
      const { entity, role, columns } = relation.near;
      const near = { target: entity, role, columns: columns.map(pairColumn), mark: null, heldAs: null, once: false };
      return { holder: relation.entity, pairs: relation.table.value, keys: [near, ...keysOfTargets(relation)] };
    }
  }
}

function keysOfTargets({
  kind,
  storage,
  targets,
}: Extract<Relation, { kind: 'polymorphic' | 'polymorphic pivot' }>): StoredKey[] {
  const together = storage.kind === 'type and id' && targets.every(({ knows }) => knows !== 'many');
  return targets.map(({ entity, role, marks, knows }, index): StoredKey => {
    const common = { target: entity, role };
    if (storage.kind === 'one of') {
      const column = storage.columns[index];
      const columns = column === undefined ? [] : [keyColumn(column)];
      return { ...common, columns, mark: null, heldAs: null, once: kind === 'polymorphic' && knows !== 'many' };
    }
    return {
      ...common,
      columns: [{ name: storage.id.value, declared: false }],
      mark: { column: storage.type.value, marks: marks.map(({ mark }) => mark) },
      heldAs: storage.idType,
      once: kind === 'polymorphic' && together,
    };
  });
}

function keyColumn({ value, declared }: { readonly value: string; readonly declared: boolean }): StoredColumn {
  return { name: value, declared };
}

function pairColumn({ value, field }: { readonly value: string; readonly field: unknown }): StoredColumn {
  return { name: value, declared: field !== null };
}

/** The groups of columns in each of which a relation stores a key, each once; a mark is none of them. */
export function keyColumnsOf(relation: Relation): readonly (readonly string[])[] {
  const groups = holdingsOf(relation).keys.map(({ columns }) => columns.map(({ name }) => name));
  return groups.filter((group, index) => groups.findIndex((other) => other.join('\n') === group.join('\n')) === index);
}

/** All columns in which a relation stores something, each once: before the key that a mark tells of stands the mark. */
export function storedColumnsOf(relation: Relation): readonly StoredColumn[] {
  const all = holdingsOf(relation).keys.flatMap(({ columns, mark }) => [
    ...(mark === null ? [] : [{ name: mark.column, declared: false }]),
    ...columns,
  ]);
  return all.filter(({ name }, index) => all.findIndex((other) => other.name === name) === index);
}

/** The type of each column of a stored key. */
export function storedTypes(model: Model, { target, columns, heldAs }: StoredKey): readonly ValueType[] {
  const { fields } = entityOf(model, target).key;
  return columns.map((_, index) => heldAs ?? fields[index]?.type ?? { kind: 'text', length: null });
}

/** Whether a relation is stored in a table of pairs. */
export function isPivot(relation: Relation): relation is AnyPivotRelation {
  return relation.kind === 'pivot' || relation.kind === 'polymorphic pivot';
}

/** Whether the rows of a relation point at rows of several entities. */
export function isPolymorphic(relation: Relation): relation is Extract<Relation, { kind: 'polymorphic' | 'polymorphic pivot' }> {
  return relation.kind === 'polymorphic' || relation.kind === 'polymorphic pivot';
}
