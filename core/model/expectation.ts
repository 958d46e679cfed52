import type { Span } from '../notation/index.js';
import type { ActorName } from './actors.js';
import type { NamedCommand } from './command.js';
import type { Expression } from './expression.js';
import type { Query } from './model.js';

/** A line of what is expected. */
export type ExpectedLine =
  | {
      readonly kind: 'rows' | 'statements';
      readonly bound: 'exactly' | 'at most' | 'at least';
      readonly count: number;
      readonly span: Span;
    }
  /** *every row*: the condition is true of each row of the answer, neither false nor unknown. *no row*: it is true of none. */
  | { readonly kind: 'every row' | 'no row'; readonly condition: Expression; readonly span: Span }
  | { readonly kind: 'fails' | 'done' | 'refused'; readonly span: Span };

/** What a text expects of a query with these values, or of a command. */
export interface Expectation {
  readonly subject:
    | { readonly kind: 'query'; readonly query: Query; readonly args: readonly Expression[] }
    | { readonly kind: 'command'; readonly command: NamedCommand };
  /** On whose behalf it is asked. */
  readonly actor: ActorName;
  readonly lines: readonly ExpectedLine[];
  readonly span: Span;
  readonly head: Span;
}
