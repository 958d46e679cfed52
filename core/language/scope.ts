import type { Entity, Model, PivotRelation, Role } from '../model/index.js';
import type { Word } from './place.js';

/** Whose names an expression sees at the cursor. */
export interface Sight {
  readonly entity: Entity;
  /** The pivot over which the row at hand was reached. */
  readonly pivot: PivotRelation | null;
  /** Something stands before a dot, so only what is behind it fits. */
  readonly walked: boolean;
  /** Behind `seats.`: only the pivot's own fields fit. */
  readonly inPivot: boolean;
}

interface Row {
  readonly entity: Entity | null;
  readonly pivot: PivotRelation | null;
}

/**
 * Walks the words of an expression up to the cursor: a path leads from entity to entity, and a bracket opens onto
 * the row that the hop before it leads to. Null where a path leads nowhere.
 */
export function sightAt(model: Model, words: readonly Word[], start: Entity | null, pivot: PivotRelation | null): Sight | null {
  const rows: Row[] = [{ entity: start, pivot }];
  let here: Row = { entity: start, pivot };
  let dotted = false;
  let inPivot = false;
  const base = () => rows.at(-1) ?? { entity: null, pivot: null };
  words.forEach((word, index) => {
    const next = words[index + 1]?.text;
    if (word.text === '.') {
      dotted = true;
    } else if (word.text === '[') {
      rows.push(here);
      here = base();
      dotted = false;
    } else if (word.text === ']') {
      here = rows.length > 1 ? (rows.pop() ?? base()) : base();
      dotted = false;
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

/** Where a role of a row's entity leads. */
export function step(model: Model, from: Row, name: string): Row {
  const role = from.entity?.roles.find((candidate) => candidate.name === name);
  if (role === undefined) return { entity: null, pivot: null };
  return { entity: model.entities.get(role.target) ?? null, pivot: pivotOfRole(model, role) };
}

/** The pivot that a role leads over; null where a key column stores it. */
export function pivotOfRole(model: Model, role: Role): PivotRelation | null {
  const relation = model.relations.get(role.relation);
  return relation?.kind === 'pivot' ? relation : null;
}
