import type { DeleteGraph } from '../core/cascades/index.js';
import type { Applied, ApplyProgress, ApplyRequest, Settling } from '../core/changes/index.js';
import type { KeyToHold } from '../core/dialects/index.js';
import type { PlanStep } from '../core/load/index.js';
import type { ActorName, Model, NamedCommand } from '../core/model/index.js';
import type { DialectName } from '../core/notation/index.js';
import type { FileValue, LineFault, LinesInRequest } from '../core/row-files/index.js';
import type { RunInput, RunName, RunResult } from '../core/runs/index.js';
import type { Schema } from '../core/schema/index.js';
import type { TableName } from '../core/sql/index.js';
import type { BoundValue } from '../core/values/index.js';
import type { Carried, CommandInputs, KeptTables, RefusedFor, TakenBack, Undo } from '../core/write/index.js';

/** Something that went wrong for a reason outside the program: said in words that name the thing and a way out. */
export interface Problem {
  readonly code:
    | 'not-a-database'
    | 'damaged'
    | 'missing'
    | 'busy'
    | 'full'
    | 'timeout'
    | 'ended'
    | 'refused'
    | 'constraint'
    | 'statement'
    | 'login'
    | 'unreachable';
  readonly message: string;
}

export type Outcome<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly problem: Problem };

/** Rows to put into one table, in order; each row's values stand in the order of the columns. */
export interface Insert {
  readonly table: TableName;
  readonly columns: readonly string[];
  readonly rows: readonly (readonly BoundValue[])[];
}

export interface MakeRequest {
  /** Statements that make the schema, run in order: before the rows, and after them. */
  readonly before: readonly string[];
  readonly inserts: readonly Insert[];
  /** Keys that are looked at only when all rows are in: rows that point at none are taken out again. */
  readonly keys: readonly KeyToHold[];
  readonly after: readonly string[];
  /** The rows are those of a text, so that now is what the text says: the database bears a mark of it, where it can. */
  readonly marked: boolean;
}

/** Commands to carry out, all within one transaction. */
export interface CommandsRequest {
  readonly model: Model;
  readonly commands: readonly NamedCommand[];
  readonly inputs: CommandInputs;
  /** What it takes to keep how rows were, so that they can be put back; left out: they are not kept. */
  readonly keeps?: KeptTables;
  /** On whose behalf commands are done of which no line says it; left out, the system’s. */
  readonly as?: ActorName;
  /** What the database does when rows are deleted; asked for where somebody else than the system does something. */
  readonly graph?: DeleteGraph;
}

/** A file whose lines are rows. */
export interface RowFile {
  readonly path: string;
  /** *csv*: RFC 4180, with the names of its columns in the first line. *json lines*: an object in each line. */
  readonly form: 'csv' | 'json lines';
  readonly columns: readonly string[];
  /** What stands between the values of CSV. */
  readonly delimiter: string;
}

/** Lines of a file to put in as rows, all within one transaction. */
export interface LinesRequest extends LinesInRequest {
  readonly file: RowFile;
  /** Whether the good lines stay where others are refused; else nothing stays then. */
  readonly goodOnes: boolean;
  /** Where refused lines are written to, a JSON object each, as they come; null for nowhere. */
  readonly refusedTo: string | null;
  /** So many lines are read at most; null for all. */
  readonly most: number | null;
}

/** How far lines have come. */
export interface LinesDone {
  readonly lines: number;
  readonly refused: number;
  /** Bytes of the file that were read, and how many there are. */
  readonly read: number;
  readonly bytes: number;
}

/** A line that was refused, with its values as the file has them. */
export interface RefusedLine {
  readonly line: number;
  readonly values: readonly FileValue[];
  readonly faults: readonly LineFault[];
}

/** What came of the lines of a file. */
export interface LinesReport {
  readonly lines: number;
  readonly created: number;
  readonly updated: number;
  readonly skipped: number;
  readonly refused: number;
  /** The first of the lines that were refused. */
  readonly firstRefused: readonly RefusedLine[];
  /** What became of the first lines, in their order. */
  readonly first: readonly { readonly line: number; readonly became: 'created' | 'updated' | 'skipped' | 'refused' }[];
  /** Whether what was written stays. */
  readonly kept: boolean;
  /** Whether the file was read to its end: many refused lines end it where nothing of it stays anyway. */
  readonly ended: boolean;
  /** A rule of rows that are in no line, which they break by what the lines put in: then nothing stays. Null where they break none. */
  readonly broken: RefusedFor | null;
  /** What it takes to take all of it back; null where that is not kept. */
  readonly undo: Undo | null;
}

/** Rows that are to be as they were before commands touched them. */
export interface TakeBackRequest {
  readonly undo: Undo;
  readonly graph: DeleteGraph;
}

/** Rows that were refused, by table and constraint. */
export interface RefusedRows {
  readonly table: string;
  readonly constraint: string;
  readonly rows: number;
}

export interface MakeReport {
  readonly rows: Readonly<Record<string, number>>;
  readonly refused: readonly RefusedRows[];
}

/** The report of a script's run. */
export interface ScriptReport {
  /** Statements that made or filled something. */
  readonly made: number;
  readonly failures: number;
  /** The first of those that failed. */
  readonly failed: readonly { readonly line: number; readonly message: string; readonly sql: string }[];
  /** Statements that would have reached beyond the new database, and were not run. */
  readonly refused: readonly { readonly line: number; readonly sql: string }[];
  /** Statements that say who may do what, or that begin with no word that is known here. */
  readonly leftOut: readonly { readonly line: number; readonly sql: string }[];
}

/** A database as its catalogue tells it. */
export interface Introspection {
  readonly dialect: DialectName;
  readonly schema: Schema;
  /** The statement that made each table, as the catalogue keeps it. */
  readonly statements: ReadonlyMap<string, string>;
  readonly version: string;
  /** Entries of the catalogue that make no sense, in words. */
  readonly unreadable: readonly string[];
  /** Types that are a list of texts, by their names. */
  readonly choices: readonly { readonly name: string; readonly values: readonly string[] }[];
}

/** How much a statement of a person's own may bring. */
export interface PlainLimits {
  readonly rows: number;
  /** Characters of all values together. */
  readonly size: number;
}

/** What a statement of a person's own brought. */
export interface PlainRows {
  readonly columns: readonly string[];
  /** Values as JSON has them; a whole number beyond its safe range, and bytes, as text. */
  readonly rows: readonly (readonly PlainValue[])[];
  /** There is more than was let through. */
  readonly cut: boolean;
  readonly milliseconds: number;
  readonly steps: readonly PlanStep[];
}

export type PlainValue = string | number | boolean | null;

/** How a call is meant. */
export interface CallOptions {
  /** Stops this call, and no other. */
  readonly signal?: AbortSignal;
  /** It may take long, and nobody waits at a page for it: it does not hold up those that do. */
  readonly patient?: boolean;
  /** What the session says, in statements of its own, before it reads; nothing of it stays. Left out, nothing. */
  readonly said?: readonly string[];
  /** Is told how far it is, where it takes long. */
  readonly progress?: (done: Progress) => void;
}

/** How far a call is that takes long. */
export type Progress = ({ readonly kind: 'lines' } & LinesDone) | ({ readonly kind: 'steps' } & ApplyProgress);

/** One database on one engine. Every call is bounded in time, and tells a person's mistakes as values. */
export interface Engine {
  readonly dialect: DialectName;
  /** Carries out a computation of core's over the rows. */
  run<Name extends RunName>(name: Name, input: RunInput<Name>, options?: CallOptions): Promise<Outcome<RunResult<Name>>>;
  /** The tables of a database; on a server, those of these schemas alone, where some are named. */
  introspect(schemas?: readonly string[] | null): Promise<Outcome<Introspection>>;
  /** Makes the schema and the rows in one transaction; rows that a constraint refuses are left out and counted. */
  make(request: MakeRequest, options?: CallOptions): Promise<Outcome<MakeReport>>;
  /** Carries out commands; where one is refused, nothing of any of them stays, and the result says why. */
  carryOut(request: CommandsRequest, options?: CallOptions): Promise<Outcome<Carried>>;
  /** Puts the lines of a file in as rows of an entity. Each step of it is bounded in time; the whole takes as long as it takes. */
  putLinesIn(request: LinesRequest, options?: CallOptions): Promise<Outcome<LinesReport>>;
  /** Puts rows back as they were, all of them or none. */
  takeBack(request: TakeBackRequest, options?: CallOptions): Promise<Outcome<TakenBack>>;
  /**
   * Carries out a plan of changes, while nobody else changes the database. Each step is bounded in time; the whole takes as long as
   * it takes. Where the engine has transactions for it, all of it is done or nothing; elsewhere one that was left half done is finished,
   * or taken back, by saying so.
   */
  apply(request: ApplyRequest | Settling, options?: CallOptions): Promise<Outcome<Applied>>;
  /** The rows of a statement of the program's own that reads; of those that a plan of changes asks before it is made. */
  ask(sql: string, options?: CallOptions): Promise<Outcome<readonly (readonly unknown[])[]>>;
  /** Runs a script, by its file, into a new database. */
  runScript(path: string, options?: CallOptions): Promise<Outcome<ScriptReport>>;
  /** Runs statements of the program's own that make or remove what it works in. */
  execute(statements: readonly string[]): Promise<Outcome<null>>;
  /**
   * Runs one statement of a person's own. It is let through where it only reads, and where the engine keeps it from anything
   * else: a file that is only looked at, a login that may only read. Elsewhere it is refused, with the reason.
   */
  readPlain(sql: string, most: PlainLimits, options?: CallOptions): Promise<Outcome<PlainRows>>;
  /** Whether it answers at all: that there is a database, and that it lets this login in. */
  answers(): Promise<Outcome<null>>;
  /** Whether the database was made by this program, with the rows of a text. */
  wasMadeHere(): Promise<boolean>;
  close(): Promise<void>;
}
