import {
  entityOf,
  holdingsOf,
  lineage,
  type Mark,
  type Model,
  type PivotEnd,
  type PivotRelation,
  type Relation,
} from '../model/index.js';
import { allHold, lookAtEntity, lookAtTable, type PlannedExpression, type StoredLook } from '../plan/index.js';
import type { ValueType } from '../values/index.js';

/** A key that a relation's rows hold, and the condition under which it leads to no row of the entity that it is meant for. */
export interface HeldKey {
  /** The columns that hold it, and where one says whose it is, the marks. */
  readonly column: string;
  /** The entity whose rows hold it; null for the pairs of a pivot. */
  readonly holder: string | null;
  /** The entity that it leads to. */
  readonly target: string;
  readonly role: string | null;
  /** The rows that hold it. */
  readonly look: StoredLook;
  /** The columns themselves. */
  readonly key: readonly string[];
  /** Which of the rows hold a key of this entity; null: all. */
  readonly marked: PlannedExpression | null;
  /** The type of that entity's key, where the columns hold it as text. */
  readonly heldAsText: ValueType | null;
  /** Null where another relation asks it of the same columns. */
  readonly lost: PlannedExpression | null;
}

/** Each key that the rows of a relation hold. */
export function heldKeys(model: Model, relation: Relation): HeldKey[] {
  if (relation.kind === 'pivot') return ofPairs(model, relation);
  const { holder, pairs, keys } = holdingsOf(relation);
  const look = pairs === null ? lookAtEntity(model, holder ?? '') : lookAtTable(model, pairs);
  return keys.map((stored) => {
    const { target, role, mark, heldAs } = stored;
    const key = stored.columns.map(({ value }) => value);
    const found = { holder, target, role, look, key };
    if (mark === null) return held(found);
    const { type } = entityOf(model, target).key;
    return held(found, {
      column: `${key.join(', ')}, ${mark.column} ${mark.marks.map((one) => `'${one}'`).join(', ')}`,
      marked: look.asks({ kind: 'marked', column: mark.column, marks: mark.marks, negated: false }),
      heldAsText: JSON.stringify(type) === JSON.stringify(heldAs) ? null : type,
    });
  });
}

/** Both keys of pairs. Where an entity holds them, its roles may lead to others too: those rows are no pairs of this relation. */
function ofPairs(model: Model, relation: PivotRelation): HeldKey[] {
  const look = lookAtTable(model, relation.table.value);
  const links = relation.ends.map((end) => linkOf(model, relation, end));
  const marks = links.map((link) => (link?.mark == null ? null : markedBy(look, link.mark)));
  return relation.ends.map((end, index) => {
    const { entity, role } = end;
    const key = namesOf(end);
    const link = links[index];
    const other = relation.ends[1 - index];
    const narrowed =
      other !== undefined && links[1 - index]?.whole === false
        ? look.leadsTo(other.entity, namesOf(other), heldAsTextBy(model, other.entity, links[1 - index]), false)
        : null;
    const heldAsText = heldAsTextBy(model, entity, link);
    const found = held(
      { holder: relation.entity, target: entity, role, look, key },
      { marked: allHold([...marks, narrowed]), heldAsText },
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

function markedBy(look: StoredLook, { column, values }: Mark): PlannedExpression {
  return look.asks({ kind: 'marked', column, marks: values, negated: false });
}

/** The type of an entity's key, where a column holds it as text among keys of other types. */
function heldAsTextBy(model: Model, entity: string, link: PairLink | null | undefined): ValueType | null {
  return link?.mark?.held == null ? null : entityOf(model, entity).key.type;
}

function held(
  found: Pick<HeldKey, 'holder' | 'target' | 'role' | 'look' | 'key'>,
  told: Partial<Pick<HeldKey, 'column' | 'marked' | 'heldAsText'>> = {},
): HeldKey {
  const whole = { column: found.key.join(', '), marked: null, heldAsText: null, ...found, ...told };
  const { look, key, target, heldAsText } = whole;
  const filled = key.map((name) => look.isFilled(name));
  const nowhere = allHold([...filled, look.leadsTo(target, key, heldAsText, true)]);
  return { ...whole, lost: allHold([whole.marked, nowhere]) };
}
