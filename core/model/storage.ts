import type { ValueType } from '../values/index.js';
import {
  type AnyPivotRelation,
  entityOf,
  type KeyColumn,
  type Model,
  type Origin,
  type PivotEnd,
  type Relation,
} from './model.js';

/** A key that a relation stores: whose it is, and where it stands. */
export interface StoredKey {
  /** The entity whose key it is. */
  readonly target: string;
  /** The role of that entity over the relation; null where nobody named it. */
  readonly role: string | null;
  /** One column for each part of the key. */
  readonly columns: readonly KeyColumn[];
  /** Where the same columns hold keys of several entities: what a column beside them says of this one's. */
  readonly mark: {
    readonly column: string;
    readonly origin: Origin;
    readonly marks: readonly string[];
    /** The entity that each mark means: of a base whose kinds have tables of their own, one of them. */
    readonly means: readonly string[];
  } | null;
  /** The type in which the columns hold keys of several entities; null where they hold this entity's own. */
  readonly heldAs: ValueType | null;
  /** No two rows may hold the same. */
  readonly once: boolean;
  /** A foreign key or triggers keep that it points at a row; false where the text leaves the triggers out. */
  readonly kept: boolean;
}

/** Where a relation is stored. */
export interface Holdings {
  /** The entity whose rows hold the keys; null for pairs that are rows of no entity. */
  readonly holder: string | null;
  /** The role of the holder, which the columns of a key in its rows are named after; null where nobody named it. */
  readonly holderRole: string | null;
  /** The table of pairs; null where the keys stand in the holder's own rows. */
  readonly pairs: AnyPivotRelation['table']['value'] | null;
  /** All keys: of a key for each of several entities one after the other, and so of keys in the same columns. */
  readonly keys: readonly StoredKey[];
}

/** Where a relation is stored: the one place that knows it of every form. */
export function holdingsOf(relation: Relation): Holdings {
  switch (relation.kind) {
    case 'key': {
      const { child, childRole, parent, parentRole, columns, form } = relation;
      const once = form === 'one-to-one';
      return {
        holder: child,
        holderRole: childRole,
        pairs: null,
        keys: [{ target: parent, role: parentRole, columns, mark: null, heldAs: null, once, kept: true }],
      };
    }
    case 'polymorphic':
      return { holder: relation.child, holderRole: relation.childRole, pairs: null, keys: keysOfTargets(relation) };
    case 'pivot':
      return { ...pairsOf(relation), keys: relation.ends.map(keyOfEnd) };
    case 'polymorphic pivot':
      return { ...pairsOf(relation), keys: [keyOfEnd(relation.near), ...keysOfTargets(relation)] };
  }
}

function pairsOf({ entity, table }: AnyPivotRelation): Omit<Holdings, 'keys'> {
  return { holder: entity, holderRole: null, pairs: table.value };
}

function keyOfEnd({ entity, role, columns }: PivotEnd): StoredKey {
  const paired = columns.map(({ value, origin, field }) => ({ value, origin, declared: field !== null }));
  return { target: entity, role, columns: paired, mark: null, heldAs: null, once: false, kept: true };
}

/** The keys of the entities that a polymorphic relation leads to, in the order of its targets: a row fills one of them. */
export function keysOfTargets({
  kind,
  storage,
  targets,
}: Extract<Relation, { kind: 'polymorphic' | 'polymorphic pivot' }>): StoredKey[] {
  const together = storage.kind === 'type and id' && targets.every(({ knows }) => knows !== 'many');
  return targets.map(({ entity, role, marks, knows }, index): StoredKey => {
    const common = { target: entity, role };
    if (storage.kind === 'one of') {
      const column = storage.columns[index];
      const columns = column === undefined ? [] : [column];
      return { ...common, columns, mark: null, heldAs: null, once: kind === 'polymorphic' && knows !== 'many', kept: true };
    }
    return {
      ...common,
      columns: [{ ...storage.id, declared: false }],
      mark: {
        column: storage.type.value,
        origin: storage.type.origin,
        marks: marks.map(({ mark }) => mark),
        means: marks.map((one) => one.entity),
      },
      heldAs: storage.idType,
      once: kind === 'polymorphic' && together,
      kept: storage.triggers,
    };
  });
}

/** The groups of columns in each of which a relation stores a key, each once; a mark is none of them. */
export function keyColumnsOf(relation: Relation): readonly (readonly string[])[] {
  const groups = holdingsOf(relation).keys.map(({ columns }) => columns.map(({ value }) => value));
  return groups.filter((group, index) => groups.findIndex((other) => other.join('\n') === group.join('\n')) === index);
}

/** All columns in which a relation stores something, each once: before the key that a mark tells of stands the mark. */
export function storedColumnsOf(relation: Relation): readonly KeyColumn[] {
  const { keys } = holdingsOf(relation);
  const [only, ...more] = keys;
  if (only?.mark === null && more.length === 0) return only.columns;
  const all = keys.flatMap(({ columns, mark }) => [
    ...(mark === null ? [] : [{ value: mark.column, origin: mark.origin, declared: false }]),
    ...columns,
  ]);
  return all.filter(({ value }, index) => all.findIndex((other) => other.value === value) === index);
}

/** Where a relation is stored, as `stored in` names it. */
export interface StoredPlace {
  /** `Loan.borrower_id`, `Remark.subject_type with Remark.subject_id`, `table seats (ensemble_id, player_id)`. */
  readonly text: string;
  /** Of a table of pairs the columns alone; null where the keys stand in the holder's own rows. */
  readonly columns: string | null;
}

/**
 * The place of a relation; null where each of several keys has a column of its own in the holder's rows.
 *
 * @param named what the holder is called there, where that is not its name
 */
export function storedPlace(relation: Relation, named: string | null = null): StoredPlace | null {
  const { pairs, keys, ...held } = holdingsOf(relation);
  const holder = named ?? held.holder;
  const [first, ...more] = keys;
  if (first === undefined) return null;
  if (pairs !== null) {
    const far = more.some(({ mark }) => mark !== null)
      ? markedKey(more)
      : listed(more.flatMap(({ columns }) => columns.map(({ value }) => value)));
    const columns = `(${listed(first.columns.map(({ value }) => value))}, ${far})`;
    return { text: `table ${pairs.name} ${columns}`, columns };
  }
  if (first.mark !== null) return { text: markedKey(keys, `${holder}.`), columns: null };
  return more.length > 0 ? null : { text: `${holder}.${listed(first.columns.map(({ value }) => value))}`, columns: null };
}

/** The column of the mark with that of the key, which all targets share. */
function markedKey([key]: readonly StoredKey[], owner = ''): string {
  return `${owner}${key?.mark?.column ?? ''} with ${owner}${key?.columns[0]?.value ?? ''}`;
}

function listed(names: readonly string[]): string {
  return names.length === 1 ? (names[0] ?? '') : `(${names.join(', ')})`;
}

/** The type of each column of a stored key. */
export function storedTypes(model: Model, { target, columns, heldAs }: StoredKey): readonly ValueType[] {
  const { fields } = entityOf(model, target).key;
  return columns.map((_, index) => heldAs ?? fields[index]?.type ?? { kind: 'text', length: null });
}

/** The columns of `storedColumnsOf` by name, with the type of each; a mark is a text. */
export function storedColumnTypes(model: Model, relation: Relation): ReadonlyMap<string, ValueType> {
  const types = new Map<string, ValueType>();
  for (const key of holdingsOf(relation).keys) {
    const { columns, mark } = key;
    if (mark !== null && !types.has(mark.column)) types.set(mark.column, { kind: 'text', length: null });
    storedTypes(model, key).forEach((type, index) => {
      const column = columns[index];
      if (column !== undefined && !types.has(column.value)) types.set(column.value, type);
    });
  }
  return types;
}

/** Whether a relation is stored in a table of pairs. */
export function isPivot(relation: Relation): relation is AnyPivotRelation {
  return relation.kind === 'pivot' || relation.kind === 'polymorphic pivot';
}

/** Whether the rows of a relation point at rows of several entities. */
export function isPolymorphic(relation: Relation): relation is Extract<Relation, { kind: 'polymorphic' | 'polymorphic pivot' }> {
  return relation.kind === 'polymorphic' || relation.kind === 'polymorphic pivot';
}

/** Whether one column holds keys of several entities, with a mark beside it that says whose each is. */
export function isMarked(relation: Relation): boolean {
  return holdingsOf(relation).keys.some(({ mark }) => mark !== null);
}
