import {
  entityOf,
  lineage,
  type Mark,
  type Model,
  type PivotEnd,
  type PivotRelation,
  type PolymorphicPivotRelation,
  type PolymorphicRelation,
  type PolymorphicStorage,
  type PolymorphicTarget,
  type Relation,
} from '../model/index.js';
import { allOf, column, equal, type SqlExpression, string } from '../sql/index.js';
import type { EngineValues, ValueType } from '../values/index.js';
import { type KeyComparison, keyOf, pointsAt, pointsNowhere, type Rows, rowsIn, rowsOf } from './rows.js';

/** A key that a relation's rows hold, and the condition under which it leads to no row of the entity that it is meant for. */
export interface HeldKey {
  /** The columns that hold it, and where one says whose it is, the marks. */
  readonly column: string;
  /** The entity whose rows hold it; null for the pairs of a pivot. */
  readonly holder: string | null;
  /** The entity that it leads to. */
  readonly target: string;
  readonly role: string | null;
  readonly rows: Rows;
  /** The columns themselves. */
  readonly key: readonly string[];
  /** Which of the rows hold a key of this entity; null: all. */
  readonly marked: SqlExpression | null;
  readonly held: KeyComparison;
  /** Null where another relation asks it of the same columns. */
  readonly lost: SqlExpression | null;
}

/** Each key that the rows of a relation hold. */
export function heldKeys(model: Model, relation: Relation, values: EngineValues): HeldKey[] {
  switch (relation.kind) {
    case 'key': {
      const key = relation.columns.map(({ value }) => value);
      const rows = rowsOf(model, relation.child, [...key, ...keyOf(model, relation.child)]);
      return [held(model, { holder: relation.child, target: relation.parent, role: relation.parentRole, rows, key })];
    }
    case 'polymorphic':
      return ofPolymorphic(model, relation, values);
    case 'polymorphic pivot': {
      const rows = rowsIn(relation.table.value);
      const { near } = relation;
      const key = near.columns.map(({ value }) => value);
      return [
        held(model, { holder: relation.entity, target: near.entity, role: near.role, rows, key }),
        ...ofTargets(model, relation, rows, values),
      ];
    }
    case 'pivot':
      return ofPairs(model, relation, values);
  }
}

function ofTargets(model: Model, relation: PolymorphicPivotRelation, rows: Rows, values: EngineValues): HeldKey[] {
  const { storage, targets, entity: holder } = relation;
  if (storage.kind === 'type and id') return targets.map((target) => typed(model, { storage }, target, rows, holder, values));
  return targets.map(({ entity, role }, index) =>
    held(model, { holder, target: entity, role, rows, key: [storage.columns[index]?.value ?? ''] }),
  );
}

/** Both keys of pairs. Where an entity holds them, its roles may lead to others too: those rows are no pairs of this relation. */
function ofPairs(model: Model, relation: PivotRelation, values: EngineValues): HeldKey[] {
  const rows = rowsIn(relation.table.value);
  const links = relation.ends.map((end) => linkOf(model, relation, end));
  const marks = links.map((link) => (link?.mark == null ? null : markedBy(rows, link.mark)));
  return relation.ends.map((end, index) => {
    const { entity, role } = end;
    const key = namesOf(end);
    const link = links[index];
    const other = relation.ends[1 - index];
    const narrowed =
      other !== undefined && links[1 - index]?.whole === false
        ? pointsAt(
            model,
            rows,
            namesOf(other),
            entityOf(model, other.entity),
            comparedAs(model, other.entity, links[1 - index], values),
          )
        : null;
    const found = held(
      model,
      { holder: relation.entity, target: entity, role, rows, key },
      { marked: allOf([...marks, narrowed]), held: comparedAs(model, entity, link, values) },
    );
    // Whether a role of the entity leads to a row at all is asked of the relation that it is of.
    return link?.mark == null && link?.whole !== false ? found : { ...found, lost: null };
  });
}

/** How the entity that holds pairs leads to one end: whose keys stand in the column, and whether all that it leads to are meant. */
interface PairLink {
  readonly mark: Mark | null;
  readonly whole: boolean;
}

function linkOf(model: Model, relation: PivotRelation, end: PivotEnd): PairLink | null {
  if (relation.entity === null) return null;
  const holder = entityOf(model, relation.entity);
  const above = lineage(model, end.entity).map(({ name }) => name);
  for (const { way, target } of [...holder.roles, ...holder.polymorphic.flatMap(({ branches }) => branches)])
    if (way.kind === 'key' && way.columns.join() === namesOf(end).join() && above.includes(target))
      return { mark: way.mark, whole: target === end.entity };
  return null;
}

function namesOf({ columns }: PivotEnd): readonly string[] {
  return columns.map(({ value }) => value);
}

function markedBy(rows: Rows, { column: name, values }: Mark): SqlExpression {
  return { kind: 'in', operand: column(rows.alias, name), items: values.map(string), negated: false };
}

/** How an entity's own key is compared with a column that may hold it in another type. */
function comparedAs(model: Model, entity: string, link: PairLink | null | undefined, values: EngineValues): HeldKey['held'] {
  if (link?.mark?.held == null) return equal;
  const { type } = entityOf(model, entity).key;
  return heldAsText(type, values);
}

function ofPolymorphic(model: Model, relation: PolymorphicRelation, values: EngineValues): HeldKey[] {
  const { storage, child } = relation;
  const columns = storage.kind === 'one of' ? storage.columns : [storage.type, storage.id];
  const named = columns.map(({ value }) => value);
  const rows = rowsOf(model, child, [...named, ...keyOf(model, child)]);
  if (storage.kind === 'type and id')
    return relation.targets.map((target) => typed(model, { storage }, target, rows, child, values));
  return relation.targets.map(({ entity, role }, index) =>
    held(model, { holder: child, target: entity, role, rows, key: [named[index] ?? ''] }),
  );
}

/** A key beside which a column says whose it is. */
function typed(
  model: Model,
  { storage }: { readonly storage: Extract<PolymorphicStorage, { kind: 'type and id' }> },
  target: PolymorphicTarget,
  rows: Rows,
  holder: string | null,
  values: EngineValues,
): HeldKey {
  const { type } = entityOf(model, target.entity).key;
  const marks = target.marks.map(({ mark }) => mark);
  return held(
    model,
    { holder, target: target.entity, role: target.role, rows, key: [storage.id.value] },
    {
      column: `${storage.id.value}, ${storage.type.value} ${marks.map((mark) => `'${mark}'`).join(', ')}`,
      marked: { kind: 'in', operand: column(rows.alias, storage.type.value), items: marks.map(string), negated: false },
      held: JSON.stringify(type) === JSON.stringify(storage.idType) ? equal : heldAsText(type, values),
    },
  );
}

/** A key in a column that holds keys of several types, as texts: sought as what it is, and then compared to the letter. */
function heldAsText(type: ValueType, values: EngineValues): KeyComparison {
  return (own, text) => {
    const sought = values.soughtKey(type, text);
    const exact = equal(values.toText(type, own), text);
    return sought === null ? exact : (allOf([equal(own, sought), exact]) ?? exact);
  };
}

function held(
  model: Model,
  found: Pick<HeldKey, 'holder' | 'target' | 'role' | 'rows' | 'key'>,
  told: Partial<Pick<HeldKey, 'column' | 'marked' | 'held'>> = {},
): HeldKey {
  const whole = { column: found.key.join(', '), marked: null, held: equal, ...found, ...told };
  const nowhere = pointsNowhere(model, found.rows, found.key, entityOf(model, found.target), whole.held);
  return { ...whole, lost: allOf([whole.marked, nowhere]) };
}
