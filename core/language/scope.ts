import { type AnyPivotRelation, type Entity, isPivot, type Model, type PolymorphicRole, type Role } from '../model/index.js';
import type { Word } from './place.js';

/** Whose names an expression sees at the cursor. */
export interface Sight {
  readonly entity: Entity;
  /** The pivot over which the row at hand was reached. */
  readonly pivot: AnyPivotRelation | null;
  /** Something stands before a dot, so only what is behind it fits. */
  readonly walked: boolean;
  /** Behind `seats.`: only the pivot's own fields fit. */
  readonly inPivot: boolean;
}

interface Row {
  readonly entity: Entity | null;
  readonly pivot: AnyPivotRelation | null;
}

/**
 * Walks the words of an expression up to the cursor: a path leads from entity to entity, and a bracket opens onto
 * the row that the hop before it leads to. Null where a path leads nowhere.
 */
export function sightAt(
  model: Model,
  words: readonly Word[],
  start: Entity | null,
  pivot: AnyPivotRelation | null,
): Sight | null {
  const rows: Row[] = [{ entity: start, pivot }];
  let here: Row = { entity: start, pivot };
  let dotted = false;
  let inPivot = false;
  const base = () => rows.at(-1) ?? { entity: null, pivot: null };
  words.forEach((word, index) => {
    const next = words[index + 1]?.text;
    const kind = words[index - 1]?.text === 'as' ? model.entities.get(word.text) : undefined;
    if (kind !== undefined) {
      // What stands behind the bracket of a cast belongs to a row of that entity.
      here = { entity: kind, pivot: null };
    } else if (word.text === ')' && words[index - 2]?.text === 'as') {
      dotted = false;
    } else if (word.text === '.') {
      dotted = true;
    } else if (word.text === '[') {
      rows.push(here);
      here = base();
      dotted = false;
    } else if (word.text === ']') {
      here = rows.length > 1 ? (rows.pop() ?? base()) : base();
      dotted = false;
    } else if (word.text === 'me' && !dotted) {
      here = { entity: model.entities.get(model.actor ?? '') ?? null, pivot: null };
    } else if (/^\w+$|^"/.test(word.text)) {
      const from = dotted ? here : base();
      const name = word.text.replace(/^"|"$/g, '');
      inPivot = !dotted && next === '.' && from.pivot?.table.value.name === name;
      here = inPivot ? from : step(model, from, name);
      dotted = false;
    } else {
      here = base();
      dotted = false;
      inPivot = false;
    }
  });
  const row = dotted ? here : base();
  return row.entity === null
    ? null
    : { entity: row.entity, pivot: dotted && !inPivot ? null : row.pivot, walked: dotted, inPivot: dotted && inPivot };
}

/** Every role of an entity by which one walks on: its own, those to several entities, and paths. */
export function rolesOf(entity: Entity | null): readonly (Role | PolymorphicRole)[] {
  return entity === null ? [] : [...entity.roles, ...entity.polymorphic, ...entity.paths];
}

/** The entities that a role leads to. */
export function targetsOf(role: Role | PolymorphicRole): readonly string[] {
  return 'branches' in role ? role.branches.map(({ target }) => target) : [role.target];
}

/** Where a role of a row's entity leads; of one to several entities, to the first, which stands for what all have. */
export function step(model: Model, from: Row, name: string): Row {
  const role = rolesOf(from.entity).find((candidate) => candidate.name === name);
  const target = role === undefined ? undefined : targetsOf(role)[0];
  if (role === undefined || target === undefined) return { entity: null, pivot: null };
  return { entity: model.entities.get(target) ?? null, pivot: pivotOfRole(model, role) };
}

/** The pivot that a role leads over; null where a key column stores it. */
export function pivotOfRole(model: Model, role: Role | PolymorphicRole): AnyPivotRelation | null {
  const relation = model.relations.get(role.relation);
  return relation !== undefined && isPivot(relation) ? relation : null;
}
