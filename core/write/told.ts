import type { AnswerRow, LogEntry } from '../load/index.js';
import type { Wire } from '../values/index.js';
import type { Undo } from './journal.js';
import type { BrokenConstraint } from './steps.js';

/** What filled a value that was written: the command, a default, a wall’s pin, the row through which it was made, the engine, or the program. */
export type FilledBy = 'given' | 'default' | 'pin' | 'owner' | 'engine' | 'computed';

/** A value that was written. */
export interface WrittenCell {
  /** The field or the role, as the text calls it. */
  readonly name: string;
  readonly by: FilledBy;
  readonly value: Wire;
}

/** What became of a row. */
export type RowChange = 'created' | 'found' | 'updated' | 'deleted' | 'linked' | 'already linked' | 'unlinked' | 'not linked';

export interface WrittenRow {
  readonly change: RowChange;
  readonly entity: string;
  /** The row's key; of a pair that of its owner. */
  readonly key: Wire;
  /** Of a pair: the role, and the row behind it. */
  readonly link: { readonly role: string; readonly entity: string; readonly key: Wire } | null;
  readonly cells: readonly WrittenCell[];
  /** The row as it was, and as it is after all commands; null where there is none. */
  readonly before: AnswerRow | null;
  readonly after: AnswerRow | null;
}

/** What a line of commands did. */
export interface CarriedLine {
  readonly name: string | null;
  readonly rows: readonly WrittenRow[];
}

/** A statement that wrote, as it stands in the log. */
export interface WriteEntry {
  /** The command that it serves, counted from 0. */
  readonly line: number;
  /** As it is sent, and as a person is shown it, with a name for each value. */
  readonly sql: string;
  readonly plain: string;
  readonly values: readonly { readonly name: string; readonly shown: string }[];
  readonly rows: number;
  readonly milliseconds: number;
}

export type CommandLogEntry =
  | ({ readonly kind: 'read'; readonly line: number } & LogEntry)
  | ({ readonly kind: 'write' } & WriteEntry);

/** What a refusal in words is about. */
export type RefusedAbout = 'row' | 'wall' | 'value';

/** What every row, or every pair, has to have, and one lacks. */
export type Lacked =
  | { readonly kind: 'role'; readonly name: string; readonly target: string }
  | { readonly kind: 'field'; readonly name: string }
  | { readonly kind: 'pair field'; readonly name: string };

/** Why commands were refused; then nothing of any of them stands. */
export type RefusedFor =
  /** In the words of the design: about a row that is not there or is out of reach, a wall that keeps from writing, or what is written. */
  | { readonly kind: 'words'; readonly about: RefusedAbout; readonly message: string }
  /** Nothing fills what a row of an entity, or a pair, has to have. */
  | { readonly kind: 'lacking'; readonly of: string; readonly lacked: Lacked }
  /** A constraint of the database stood against a row. */
  | {
      readonly kind: 'constraint';
      readonly broken: BrokenConstraint;
      readonly table: string;
      readonly cells: readonly WrittenCell[];
    }
  /** A rule, which no constraint holds, was broken by a row. */
  | {
      readonly kind: 'rule';
      readonly entity: string;
      readonly rule: string;
      readonly message: string | null;
      /** The row that breaks it; null where it is hidden from whoever is at work. */
      readonly key: Wire;
    };

export interface CommandRefusal {
  /** The command, counted from 0. */
  readonly line: number;
  readonly why: RefusedFor;
}

/** What the database did to other rows of itself, by the rules of relations and by triggers. */
export interface WentAlong {
  /** The entity of the rows, or the relation whose pairs they are. */
  readonly of: string;
  /** The role that was emptied in them; null where they are gone. */
  readonly role: string | null;
  readonly rows: number;
}

/** What came of commands. */
export interface Carried {
  readonly lines: readonly CarriedLine[];
  /** What went along with rows that were deleted, counted before and after. */
  readonly along: readonly WentAlong[];
  readonly log: readonly CommandLogEntry[];
  /** What it takes to put back all that was touched; null where that was not kept. */
  readonly undo: Undo | null;
  readonly refusal: CommandRefusal | null;
}
