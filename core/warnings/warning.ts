import type { LogEntry } from '../load/index.js';
import type { Model, Query } from '../model/index.js';
import type { Fix, Span, Weight } from '../notation/index.js';
import type { Schema } from '../schema/index.js';

/** Something that a person should know of a query that was run: what it is, what shows it, and a way out. */
export interface QueryWarning {
  readonly weight: Exclude<Weight, 'error'>;
  /** A stable, kebab-case name of the rule. */
  readonly code: string;
  readonly message: string;
  /** What of the run shows it: figures of its rows, a step of a plan. */
  readonly evidence: string;
  /** Where in the query it stands; null for what is said nowhere in it. */
  readonly span: Span | null;
  /** Edits of the query's text, or of the design's. */
  readonly fix: (Fix & { readonly of: 'query' | 'design' }) | null;
}

/** A query that was run, and what the run told. */
export interface RanQuery {
  readonly model: Model;
  /** The tables that the design asks for, or that it describes. */
  readonly schema: Schema;
  readonly query: Query;
  /** The text in which the query's places are. */
  readonly text: string;
  readonly log: readonly LogEntry[];
  /** How many root rows there are; of a flat answer, lines. */
  readonly count: number;
  /** These rows: an answer may be long, and most warnings do not look into it. */
  rows(): readonly Readonly<Record<string, unknown>>[];
  /** How many rows there are of an entity, where that was asked. */
  readonly rowsOf: ReadonlyMap<string, number>;
  /** Whether the row where the page ends, and the one behind it, are the same in all that is ordered by; null where not asked. */
  readonly tiedAtEdge: boolean | null;
}

/** One thing to look for in a query that was run. */
export interface Warning {
  /** The code of what it tells. */
  readonly code: string;
  find(ran: RanQuery): readonly QueryWarning[];
}

/** `12 rows`, `1 row`. */
export function counted(number: number, word: string): string {
  return `${number.toLocaleString('en')} ${word}${number === 1 ? '' : 's'}`;
}
