import type { Kinds, Origin, Relation } from '../model/index.js';
import type { DeleteRule, Knows, Span } from '../notation/index.js';

export interface SentenceCard {
  readonly subject: string;
  readonly knows: Knows;
  /** One entity, or those of a polymorphic role. */
  readonly targets: readonly string[];
  readonly role: string;
  readonly bothWays: boolean;
  readonly relation: string;
  readonly note: string | null;
}

export interface FieldCard {
  readonly name: string;
  readonly type: string;
  readonly column: string;
  readonly marks: readonly string[];
  readonly note: string | null;
  readonly derived: boolean;
  /** Whether it is the key, alone. */
  readonly key: boolean;
  readonly optional: boolean;
  /** Its default, as the notation writes it; null where it has none. */
  readonly default: string | null;
}

/** Something that is stored, and why there. */
export interface StorageCard {
  /** Where it stands, as `stored in` names the place. */
  readonly place: string;
  readonly text: string;
  readonly why: string;
  readonly stated: boolean;
}

/** What a wall asks of the rows of an entity, as the text has it. */
export interface WallCard {
  readonly name: string;
  /** What it keeps rows from; null for reading and writing alike. */
  readonly on: 'read' | 'write' | null;
  readonly lines: readonly string[];
  /** What of the actor frees from it, any of it. */
  readonly unless: readonly string[];
}

export interface EntityCard {
  readonly kind: 'entity';
  readonly name: string;
  readonly note: string | null;
  readonly table: StorageCard;
  readonly fields: readonly FieldCard[];
  readonly sentences: readonly SentenceCard[];
  /** The relations that are derived from others, as the text has them. */
  readonly paths: readonly { readonly name: string; readonly text: string; readonly target: string; readonly many: boolean }[];
  /** The walls on it: what has to be true of a row so that whoever is at work reaches it. */
  readonly walls: readonly WallCard[];
  /** What it is among the kinds of a base; null where it is no kind and has none. */
  readonly kinds: (Pick<Kinds, 'root' | 'base' | 'kinds' | 'abstract' | 'storage'> & { readonly mark: string | null }) | null;
  /** The table is somebody else’s. */
  readonly given: boolean;
  readonly sql: string;
  readonly span: Span;
}

/** A join over a relation from one of its ends; without a role, where no sentence names that way. */
export interface JoinCard {
  readonly from: string;
  readonly role: string | null;
  readonly sql: string;
}

export interface RelationCard {
  readonly kind: 'relation';
  readonly name: string;
  readonly form: Relation['form'];
  readonly note: string | null;
  readonly sentences: readonly SentenceCard[];
  readonly storage: readonly StorageCard[];
  /** What a delete of each end does, in words. */
  readonly deletes: readonly {
    readonly when: string;
    readonly then: string;
    readonly rule: DeleteRule;
    readonly stated: boolean;
  }[];
  /** What stands in the database for it: the key column, or the pivot's table. */
  readonly sql: string;
  /** The join from each end to the other. */
  readonly joins: readonly JoinCard[];
  readonly span: Span;
}

export type Card = EntityCard | RelationCard;

/**
 * Something that is stored, with why it is there.
 *
 * @param place as `stored in` names it
 * @param more what is said of it, behind the place
 */
export function storage(place: string, more: string, origin: Origin): StorageCard {
  const text = `${place}${more}`;
  return origin.kind === 'stated'
    ? { place, text, why: 'stated', stated: true }
    : { place, text, why: `by convention: ${origin.rule}`, stated: false };
}
