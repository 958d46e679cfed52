import type { Name, Span } from '../notation/index.js';

/** Something that a text names: told apart by its kind, whose it is, and its name. */
export interface NamedThing {
  readonly kind:
    | 'entity'
    | 'mixin'
    | 'choice'
    | 'relation'
    | 'scope'
    | 'wall'
    | 'query'
    | 'field'
    /** A field of the pivot of a relation, whose name is its owner. */
    | 'pivot field'
    | 'role'
    | 'path'
    | 'sample row'
    | 'parameter'
    /** A name that a query gives to what it shows. */
    | 'column'
    | 'check'
    | 'rule'
    /** The table of a pivot, which names its fields in expressions. */
    | 'pivot';
  /** The entity, mixin or relation that a field, role, check or sample row belongs to, the query of a parameter or a column; empty for the others. */
  readonly owner: string;
  readonly name: string;
}

/** A place in a text where something is named. */
export interface Reference {
  readonly span: Span;
  readonly thing: NamedThing;
  /** Here it is declared; elsewhere it is used. */
  readonly declares: boolean;
}

/** Records that a name was found to mean something. A mixin's lines are read once for each entity; the first counts. */
export function refer(
  references: Map<number, Reference>,
  { text, span }: Name,
  kind: NamedThing['kind'],
  owner = '',
  declares = false,
): void {
  if (text === '' || references.has(span.start)) return;
  references.set(span.start, { span, thing: { kind, owner, name: text }, declares });
}
