/** Every message between browser and server: its schema, and its type. Both sides use them. */
import * as v from 'valibot';

/** The longest text of a tree, in characters. */
export const LONGEST_TEXT = 2_000_000;

/** One of the two halves of a character beyond U+FFFF, without the other. */
const HALF_CHARACTER = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/;

/** A path of a file: no system has one with U+0000. */
const path = v.pipe(
  v.string(),
  v.maxLength(4096),
  v.check((written) => !written.includes('\0'), 'A path cannot hold the character U+0000.'),
);

const MOST_NAMES = 100_000;

/** Values by any names: also by such as `constructor`, which an object has of its own. */
function recordOf<const Value extends v.GenericSchema>(value: Value) {
  return v.pipe(
    v.custom<Record<string, unknown>>(
      (given) => typeof given === 'object' && given !== null && !Array.isArray(given) && Object.keys(given).length <= MOST_NAMES,
    ),
    v.transform((given) => Object.entries(given)),
    v.array(v.tuple([v.string(), value])),
    v.transform((entries): Record<string, v.InferOutput<Value>> => Object.fromEntries(entries)),
  );
}

const name = v.pipe(v.string(), v.maxLength(200));
/** A line ends in a line feed within the program; a file's own line ends are its file's business. */
const heldText = v.pipe(
  v.string(),
  v.transform((written) => written.replace(/\r\n?/g, '\n')),
);

const text = v.pipe(
  heldText,
  v.check(
    (written) => !written.includes('\0') && !HALF_CHARACTER.test(written),
    'A text cannot hold the character U+0000, nor half of a character. Remove it.',
  ),
  v.maxLength(LONGEST_TEXT, 'A text may hold 2,000,000 characters at most. Split the tree, or remove what it no longer needs.'),
);

export const TreeSummary = v.object({
  id: v.string(),
  title: v.string(),
  /** *made*: its database is made from the text. *brought in*: a database that was there before, looked at as it is. */
  kind: v.picklist(['made', 'brought in']),
  revision: v.number(),
  savedAt: v.string(),
  entities: v.number(),
  /** The `.kin` file that the text is bound to. */
  file: v.nullable(v.string()),
});
export type TreeSummary = v.InferOutput<typeof TreeSummary>;

export const TreeList = v.object({
  trees: v.array(TreeSummary),
  /** Those that were taken off the shelf. */
  takenOff: v.array(TreeSummary),
  uploadLimit: v.number(),
  /** The folder that was given at the start, with the `.kin` files, and the databases and scripts below it. */
  folder: v.nullable(v.object({ path: v.string(), files: v.array(v.string()), databases: v.array(v.string()) })),
});
/** Takes a tree off the shelf, or puts it back. */
export const ShelfTree = v.object({ takenOff: v.boolean() });
export type ShelfTree = v.InferOutput<typeof ShelfTree>;

export type TreeList = v.InferOutput<typeof TreeList>;

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

const address = v.pipe(v.string(), v.trim(), v.maxLength(2000));
const password = v.nullable(v.pipe(v.string(), v.maxLength(1000)));

/** An address to try; the password never stands in it. Without one, the kept one is taken. */
export const TryDatabase = v.object({ address, password });
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

const Place = { password, keepPassword: v.boolean(), label: v.pipe(v.string(), v.trim(), v.maxLength(40)) };

/** The database that a tree is to use; an address of null is its own SQLite file. */
/** `sqlite:FILE` is a file below the folder given at the start: looked at as it is. Null is a file of the tree's own. */
export const UseDatabase = v.object({ address: v.nullable(address), unlocked: v.boolean(), ...Place });
export type UseDatabase = v.InferOutput<typeof UseDatabase>;

/** Lets this program write to the server, or no longer. */
export const LockDatabase = v.object({ unlocked: v.boolean() });

/** Brings in a database from a server: all of it, or the named schemas. */
export const BringInAddress = v.object({
  address,
  schemas: v.nullable(v.pipe(v.array(v.pipe(v.string(), v.maxLength(200))), v.maxLength(500))),
  /** Names or patterns of tables, as a person lists them; empty for all. */
  tables: v.pipe(v.string(), v.maxLength(10_000)),
  ...Place,
});
export type BringInAddress = v.InferOutput<typeof BringInAddress>;

export const Tree = v.object({
  id: v.string(),
  inUse: DatabaseInUse,
  title: v.string(),
  kind: v.picklist(['made', 'brought in']),
  /** Its database came in with it, and how is known. */
  arrived: v.boolean(),
  revision: v.number(),
  text: heldText,
  file: v.nullable(v.string()),
});
export type Tree = v.InferOutput<typeof Tree>;

export const NewTree = v.variant('from', [
  v.object({ from: v.literal('demo') }),
  v.object({ from: v.literal('empty'), title: v.optional(name) }),
  v.object({ from: v.literal('text'), text }),
]);
export type NewTree = v.InferOutput<typeof NewTree>;

/** Opens a file below the folder that was given at the start. */
export const OpenFile = v.object({ path });
export type OpenFile = v.InferOutput<typeof OpenFile>;

const ScriptLine = v.object({ line: v.number(), sql: v.string() });

/** How a database came in: from where, what was kept as SQL, what was not carried. */
export const Arrival = v.object({
  source: v.object({ kind: v.picklist(['upload', 'path', 'server']), name: v.string() }),
  at: v.string(),
  summary: v.string(),
  kept: v.array(v.string()),
  report: v.array(v.string()),
  /** Why a copy is looked at; null where it is the file itself, or what was uploaded. */
  copied: v.nullable(v.string()),
  /** What became of the script; null where a database came in. */
  script: v.nullable(
    v.object({
      made: v.number(),
      failures: v.number(),
      failed: v.array(v.object({ ...ScriptLine.entries, message: v.string() })),
      refused: v.array(ScriptLine),
      leftOut: v.optional(v.array(ScriptLine), []),
    }),
  ),
});
export type Arrival = v.InferOutput<typeof Arrival>;

export const BroughtInTree = v.object({ tree: Tree, arrival: Arrival });
export type BroughtInTree = v.InferOutput<typeof BroughtInTree>;

/** Brings in a database or a script below the folder that was given at the start. */
export const BringInPath = v.object({ path });

/** What changed in a database since it came in, as edits to the text; nothing is saved until it is taken in. */
export const BroughtAgain = v.object({
  /** Under which it is taken in. */
  pending: v.string(),
  /** The revision that the edits are for. */
  basedOn: v.number(),
  text: v.string(),
  changes: v.array(
    v.object({
      kind: v.picklist(['came', 'went', 'changed', 'left']),
      where: v.string(),
      was: v.nullable(v.string()),
      now: v.nullable(v.string()),
      why: v.nullable(v.string()),
    }),
  ),
});
export type BroughtAgain = v.InferOutput<typeof BroughtAgain>;

/** What a long piece of work is at. */
export const WorkStep = v.object({ what: v.string() });
export type WorkStep = v.InferOutput<typeof WorkStep>;

/** `overFile`: the text of the bound file that this one was brought together with, so that it may be written over. */
export const SaveText = v.object({ text, basedOn: v.pipe(v.number(), v.integer()), overFile: v.optional(text) });
export type SaveText = v.InferOutput<typeof SaveText>;

export const Saved = v.object({ revision: v.number() });
export type Saved = v.InferOutput<typeof Saved>;

/** Somebody saved another text in between; both are kept. */
export const SaveConflict = v.object({ message: v.string(), revision: v.number(), text: heldText });
export type SaveConflict = v.InferOutput<typeof SaveConflict>;

export const Revisions = v.object({
  revisions: v.array(
    v.object({
      number: v.number(),
      savedAt: v.string(),
      /** Where it came from: this page, or the bound file. */
      source: v.picklist(['page', 'file']),
      /** Lines that came and went against the one before. */
      added: v.number(),
      removed: v.number(),
    }),
  ),
});
export type Revisions = v.InferOutput<typeof Revisions>;

export const Revision = v.object({ number: v.number(), savedAt: v.string(), text: heldText });
export type Revision = v.InferOutput<typeof Revision>;

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
    milliseconds: v.number(),
  }),
]);
export type DatabaseState = v.InferOutput<typeof DatabaseState>;

export const Run = v.object({
  query: v.variant('kind', [
    v.object({ kind: v.literal('saved'), name }),
    /** A query's text; `head` declares its parameters, as behind a query's name. */
    v.object({
      kind: v.literal('text'),
      text: v.pipe(v.string(), v.maxLength(100_000)),
      head: v.pipe(v.string(), v.maxLength(10_000)),
    }),
  ]),
  parameters: recordOf(v.nullable(v.pipe(v.string(), v.maxLength(1_000_000)))),
});
export type Run = v.InferOutput<typeof Run>;

/** How a tree's file stands to its text. */
export const FileState = v.variant('kind', [
  v.object({ kind: v.literal('same') }),
  v.object({ kind: v.literal('failed'), message: v.string() }),
  /** Both were changed in the same lines: `base` is what both began from, `text` what the file has. */
  v.object({ kind: v.literal('clash'), base: v.string(), text: v.string() }),
]);
export type FileState = v.InferOutput<typeof FileState>;

/** What happens to an open tree, as it happens. */
export const TreeEvent = v.variant('kind', [
  v.object({ kind: v.literal('database'), state: DatabaseState }),
  /** There is a newer revision, by somebody else or from the bound file. */
  v.object({ kind: v.literal('text'), revision: v.number(), source: v.picklist(['page', 'file']) }),
  v.object({ kind: v.literal('file'), state: FileState }),
]);
export type TreeEvent = v.InferOutput<typeof TreeEvent>;

const Via = v.object({ entity: name, key: v.pipe(v.string(), v.maxLength(10_000)), role: name });

/** A window of an entity's rows: which, in what order, walked to from where. */
export const RowsAsk = v.object({
  entity: name,
  where: v.pipe(v.string(), v.maxLength(10_000)),
  orderBy: v.pipe(v.string(), v.maxLength(2000)),
  via: v.nullable(Via),
  /** One row alone, by its key. */
  key: v.optional(v.pipe(v.string(), v.maxLength(10_000))),
  from: v.pipe(v.number(), v.integer(), v.minValue(0)),
  count: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(500)),
});
export type RowsAsk = v.InferOutput<typeof RowsAsk>;

const Row = recordOf(v.unknown());

export const RowsAnswer = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    /** All rows that were asked for, of which these are a window. */
    total: v.number(),
    cut: v.boolean(),
    rows: v.array(Row),
    sql: v.string(),
    milliseconds: v.number(),
    revision: v.number(),
  }),
  v.object({
    ok: v.literal(false),
    findings: v.array(
      v.object({ part: v.picklist(['where', 'order by']), message: v.string(), start: v.number(), end: v.number() }),
    ),
    problems: v.array(v.string()),
  }),
]);
export type RowsAnswer = v.InferOutput<typeof RowsAnswer>;

export const CountsAsk = v.object({ entity: name, keys: v.pipe(v.array(v.union([v.string(), v.number()])), v.maxLength(500)) });
export type CountsAsk = v.InferOutput<typeof CountsAsk>;

/** By role, then by the owner's key; a row that is missing knows none. */
export const Counts = v.object({ counts: recordOf(recordOf(v.number())) });
export type Counts = v.InferOutput<typeof Counts>;

/** How many rows each entity has; one that cannot be counted is missing. */
export const EntityCounts = v.object({ rows: recordOf(v.number()) });
export type EntityCounts = v.InferOutput<typeof EntityCounts>;

const KeyRows = v.array(v.object({ column: v.string(), rows: v.number() }));

/** One way to store the kinds of a base, measured on its rows. */
export const KindsWay = v.object({
  storage: v.picklist(['single table', 'joined tables', 'separate tables', 'json']),
  chosen: v.boolean(),
  problem: v.nullable(v.string()),
  needs: v.nullable(v.string()),
  tables: v.number(),
  columns: v.number(),
  emptyShare: v.number(),
  asks: v.array(
    v.object({
      what: v.string(),
      joins: v.number(),
      tables: v.number(),
      statements: v.number(),
      rows: v.number(),
      milliseconds: v.number(),
      sql: v.string(),
    }),
  ),
  bytes: v.number(),
  lost: v.array(v.string()),
});
export type KindsWay = v.InferOutput<typeof KindsWay>;

/** The ways to store the kinds of a base, side by side. */
export const KindsCompared = v.object({ ways: v.array(KindsWay) });
export type KindsCompared = v.InferOutput<typeof KindsCompared>;

/** What the rows say about a relation. */
export const Profile = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    rows: v.number(),
    ends: v.array(
      v.object({
        entity: v.string(),
        role: v.nullable(v.string()),
        histogram: v.object({
          least: v.number(),
          mean: v.number(),
          most: v.number(),
          none: v.number(),
          parents: v.number(),
          buckets: v.array(v.object({ least: v.number(), most: v.number(), parents: v.number() })),
        }),
      }),
    ),
    empty: KeyRows,
    dangling: KeyRows,
    milliseconds: v.number(),
    statements: v.array(v.string()),
  }),
  v.object({ ok: v.literal(false), problem: v.string() }),
]);
export type Profile = v.InferOutput<typeof Profile>;

/** Rows that do not hold to the design, and what was asked to find them. */
export const RowsChecked = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    findings: v.array(
      v.object({
        code: v.string(),
        weight: v.picklist(['error', 'warning', 'note']),
        message: v.string(),
        span: v.object({ start: v.number(), end: v.number() }),
        rows: v.number(),
        /** The entity whose rows they are; null for pairs of a pivot, and for values. */
        entity: v.nullable(v.string()),
        /** The condition under which Rows shows them; null where the notation cannot say it. */
        condition: v.nullable(v.string()),
        examples: v.array(v.object({ key: v.unknown(), values: v.array(v.object({ column: v.string(), value: v.unknown() })) })),
        sql: v.string(),
      }),
    ),
    asked: v.number(),
    unanswered: v.array(v.object({ message: v.string(), span: v.object({ start: v.number(), end: v.number() }) })),
    milliseconds: v.number(),
    revision: v.number(),
  }),
  v.object({ ok: v.literal(false), problem: v.string() }),
]);
export type RowsChecked = v.InferOutput<typeof RowsChecked>;

const Span = v.object({ start: v.number(), end: v.number() });

export const LogEntry = v.object({
  path: v.string(),
  plain: v.string(),
  sent: v.string(),
  byColumns: v.boolean(),
  parameters: v.array(v.object({ name: v.string(), shown: v.string(), count: v.nullable(v.number()) })),
  rows: v.number(),
  milliseconds: v.number(),
  span: v.nullable(Span),
  /** How the engine answers it, in words; `scan` marks a step that reads every row. */
  steps: v.array(v.object({ depth: v.number(), text: v.string(), scan: v.boolean() })),
});
export type LogEntry = v.InferOutput<typeof LogEntry>;

export const FindingMessage = v.object({
  weight: v.picklist(['error', 'warning', 'note']),
  code: v.string(),
  message: v.string(),
  span: Span,
});

export const RunResult = v.variant('ok', [
  v.object({
    ok: v.literal(true),
    entity: v.string(),
    cardinality: v.picklist(['many', 'first', 'one', 'count']),
    /** The root rows, as one JSON array. */
    text: v.string(),
    rows: v.number(),
    log: v.array(LogEntry),
    /** Where rows were left out: of a load, or of the root (an empty path). `size`: it was the answer’s length that cut them. */
    cuts: v.array(v.object({ path: v.string(), limit: v.number(), size: v.nullable(v.number()) })),
    revision: v.number(),
  }),
  v.object({ ok: v.literal(false), findings: v.array(FindingMessage), problems: v.array(v.string()) }),
]);
export type RunResult = v.InferOutput<typeof RunResult>;

/** Rows to choose from where a parameter is an entity. */
export const RowChoices = v.object({ rows: v.array(v.object({ key: v.string(), shown: v.string() })), more: v.boolean() });
export type RowChoices = v.InferOutput<typeof RowChoices>;

/** What an error answer says; `message` is for a person. */
export const Failure = v.object({ message: v.string() });
export type Failure = v.InferOutput<typeof Failure>;

export const Preferences = v.pipe(
  recordOf(v.pipe(v.string(), v.maxLength(10_000))),
  v.check((given) => Object.keys(given).every((key) => key.length <= 100), 'A name may hold 100 characters.'),
);
export type Preferences = v.InferOutput<typeof Preferences>;
