import type { Design } from '../design/index.js';
import type { NamedThing, Reference } from '../model/index.js';
import type { Span } from '../notation/index.js';

/** The name at an offset, and what it means; null where none stands. */
export function nameAt(design: Design, offset: number): Reference | null {
  return design.references.find(({ span }) => span.start <= offset && offset <= span.end) ?? null;
}

/** Every place that names the same thing, in the order of the text. */
export function usesOf(design: Design, thing: NamedThing): readonly Reference[] {
  return design.references.filter((reference) => sameThing(reference.thing, thing));
}

/** Where a thing is declared; null where the text uses a thing that it does not declare. */
export function definitionOf(design: Design, thing: NamedThing): Span | null {
  return usesOf(design, thing).find(({ declares }) => declares)?.span ?? null;
}

/** Do two names mean the same thing? */
export function sameThing(a: NamedThing, b: NamedThing): boolean {
  return a.kind === b.kind && a.owner === b.owner && a.name === b.name;
}
