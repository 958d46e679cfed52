import type { ApplyRequest, Settling } from '../core/changes/index.js';
import type { Statement } from '../core/load/index.js';
import type { SentRun } from '../core/runs/index.js';
import type { ReadingStatement } from '../core/sql/index.js';
import type { BoundParameter } from '../core/values/index.js';
import type { CommandsRequest, LinesRequest, MakeRequest, Outcome, PlainLimits, Progress, TakeBackRequest } from './engine.js';

/**
 * How a database file is opened: *look* never writes; *write* changes rows of a file that is there; *make* starts a new file;
 * *settle* takes in what stands beside a copy (a log, a transaction left half done), so that the copy is one file.
 */
export type OpenMode = 'look' | 'write' | 'make' | 'settle';

/** A question to the child process. */
export type Ask =
  | { readonly kind: 'run'; readonly sent: SentRun; readonly said: readonly string[] }
  /** One statement of a run that is carried out elsewhere. */
  | { readonly kind: 'statement'; readonly statement: Statement; readonly said: readonly string[] }
  | { readonly kind: 'introspect'; readonly schemas: readonly string[] | null }
  | { readonly kind: 'make'; readonly request: MakeRequest }
  | { readonly kind: 'commands'; readonly request: CommandsRequest }
  | { readonly kind: 'lines in'; readonly request: LinesRequest }
  | { readonly kind: 'take back'; readonly request: TakeBackRequest }
  | { readonly kind: 'apply'; readonly request: ApplyRequest | Settling }
  | { readonly kind: 'script'; readonly path: string }
  | { readonly kind: 'answers' }
  | { readonly kind: 'made here' }
  | { readonly kind: 'execute'; readonly statements: readonly string[] }
  /** One statement of a person's own, which only reads. */
  | { readonly kind: 'plain'; readonly statement: ReadingStatement; readonly most: PlainLimits }
  | {
      readonly kind: 'read';
      readonly sql: string;
      readonly parameters: Readonly<Record<string, BoundParameter>>;
      readonly said: readonly string[];
    };

/** A message to the child process: a question, or that it is to come to an end with one that it is at. */
export type ToChild = ({ readonly kind: 'ask' } & AskMessage) | { readonly kind: 'stop'; readonly id: number };

/** A plan that goes along with a question: where the process keeps it, and the plan itself where it has not got it yet. */
export interface SentPlan {
  readonly slot: number;
  readonly compiled?: unknown;
}

export interface AskMessage {
  readonly id: number;
  /** The schema that is meant where none is said; null where the engine has none, or has one alone. */
  readonly place: string | null;
  readonly ask: Ask;
  /** The plan of a run, apart from the question: a process that has it already is told where. */
  readonly plan?: SentPlan;
}

/**
 * A message of the child process; `running` tells beforehand which statement a call is at, in case it never comes back; `progress`
 * that a long one goes on.
 */
export type ChildMessage =
  | { readonly kind: 'progress'; readonly id: number; readonly done: Progress }
  | { readonly kind: 'running'; readonly id: number; readonly sql: string }
  | { readonly kind: 'done'; readonly id: number; readonly outcome: Outcome<unknown> };
