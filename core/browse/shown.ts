import type { Entity, Model } from '../model/index.js';

/** The name under which a row's own title stands in an answer; no field can bear it. */
export const SHOWN = '~shown';

/** A model in which what a row is shown as is a derived field, so that the database computes it like any other. */
export function withShown(model: Model): Model {
  return { ...model, entities: new Map(Array.from(model.entities, ([name, entity]) => [name, shownEntity(entity)])) };
}

/** An entity whose rows carry their title. */
export function shownEntity(entity: Entity): Entity {
  const { shownAs, span } = entity;
  const shown = { name: SHOWN, expression: shownAs.value, type: shownAs.value.type, note: null, span };
  return { ...entity, derived: [...entity.derived, shown], alwaysLoad: [] };
}
