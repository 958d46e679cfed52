import * as v from 'valibot';
import { Address, Password, recordOf } from './parts.js';

/** The database that a tree uses: its own SQLite file, an embedded PostgreSQL, or one on a server. */
export const DatabaseInUse = v.object({
  kind: v.picklist(['own file', 'embedded', 'server']),
  dialect: v.picklist(['sqlite', 'postgres', 'mariadb']),
  /** Without a password; null for a file of its own. */
  address: v.nullable(v.string()),
  /** What kind of place it is, in the person's words. */
  label: v.nullable(v.string()),
  /** Nothing is written to a server before a person unlocks it. */
  unlocked: v.boolean(),
  passwordKept: v.boolean(),
});
export type DatabaseInUse = v.InferOutput<typeof DatabaseInUse>;

/** An address to try; the password never stands in it. Without one, the kept one is taken. */
export const TryDatabase = v.object({ address: Address, password: Password });
export type TryDatabase = v.InferOutput<typeof TryDatabase>;

/** What a server says of itself and of the login. */
export const Surroundings = v.object({
  address: v.string(),
  version: v.string(),
  user: v.string(),
  database: v.string(),
  schemas: v.array(v.object({ name: v.string(), tables: v.number(), readable: v.number() })),
  limits: v.array(v.string()),
  /** What the login could do beyond its own databases; null where that is no more than any login. */
  powers: v.nullable(v.string()),
});
export type Surroundings = v.InferOutput<typeof Surroundings>;

/** How a database on a server is called and logged into. */
export const Login = { password: Password, keepPassword: v.boolean(), label: v.pipe(v.string(), v.trim(), v.maxLength(40)) };

/**
 * The database that a tree is to use. An address of null is the tree's own SQLite file; `sqlite:FILE` is a file below the
 * folder given at the start, looked at as it is.
 */
export const UseDatabase = v.object({ address: v.nullable(Address), unlocked: v.boolean(), ...Login });
export type UseDatabase = v.InferOutput<typeof UseDatabase>;

/** Lets this program write to the server, or no longer. */
export const LockDatabase = v.object({ unlocked: v.boolean() });

const Unsatisfied = v.object({ owner: v.string(), constraint: v.string(), rows: v.number() });

/** SQL that a text states itself, as it would be run. */
export const StatedSql = v.object({
  sql: v.string(),
  /** Where it stands in the text: the place of its first letter, and the line, counted from 1. */
  at: v.number(),
  line: v.number(),
  /** In what it reaches beyond the tables of its own database. */
  reaches: v.array(v.string()),
  /** By which a person agrees to it. */
  digest: v.string(),
});
export type StatedSql = v.InferOutput<typeof StatedSql>;

/** A person agrees that these statements are run; `powers`: also by a login that could do what was said. */
export const AgreeToSql = v.object({
  digests: v.pipe(v.array(v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/))), v.maxLength(10_000)),
  powers: v.boolean(),
});
export type AgreeToSql = v.InferOutput<typeof AgreeToSql>;

/** Commands that were carried out on a scratch database, and are kept. */
export const WrittenCommands = v.object({
  id: v.number(),
  text: v.string(),
  writtenAt: v.string(),
  /** Why they could not be carried out again; null where they were. */
  unfit: v.nullable(v.string()),
  /** Why they cannot be taken back; null where they can. */
  lacks: v.nullable(v.string()),
  /** They are the lines of a file, so that the text is none of commands. */
  isFile: v.boolean(),
});
export type WrittenCommands = v.InferOutput<typeof WrittenCommands>;

/** The database that Try looks at, and how it stands to the text. */
export const DatabaseState = v.variant('status', [
  v.object({
    status: v.literal('making'),
    revision: v.number(),
    /** How far it is, where it takes a while: the rows thought out so far, or all of them. */
    progress: v.optional(v.object({ what: v.picklist(['thinking out', 'writing', 'looking over']), rows: v.number() })),
  }),
  /** *stopped*: by a person, who can have it made all the same. */
  v.object({ status: v.literal('failed'), revision: v.number(), message: v.string(), stopped: v.optional(v.boolean()) }),
  /** The text states SQL that nobody has agreed to yet, and nothing is made before a person does. */
  v.object({
    status: v.literal('asks'),
    revision: v.number(),
    where: v.string(),
    statements: v.array(StatedSql),
    /** What the login could do beyond its own database; null where it can do no more than others. */
    powers: v.nullable(v.string()),
  }),
  v.object({
    status: v.literal('ready'),
    revision: v.number(),
    kind: v.picklist(['made', 'brought in']),
    /** Rows by table. */
    rows: recordOf(v.number()),
    unsatisfied: v.array(Unsatisfied),
    unheld: v.array(v.string()),
    /** What the text has and the database has not. */
    absent: v.array(v.object({ owner: v.string(), table: v.string(), column: v.nullable(v.string()) })),
    /** What a person has written into it, in order: carried out again each time that it is made. */
    written: v.array(WrittenCommands),
    /** Why rows cannot be written from the page; null where they can. */
    locked: v.nullable(v.string()),
    milliseconds: v.number(),
  }),
]);
export type DatabaseState = v.InferOutput<typeof DatabaseState>;
