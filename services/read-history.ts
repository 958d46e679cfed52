import * as v from 'valibot';
import { HISTORY_COLUMNS, HISTORY_TABLE, type HistoryEntry, notedSql, wrongByHand, wrongNoted } from '../core/changes/index.js';
import { dialects } from '../core/dialects/index.js';
import type { DialectName } from '../core/notation/index.js';
import type { Outcome } from '../engines/index.js';

const TableName = v.object({ schema: v.nullable(v.string()), name: v.string() });
const DeleteRule = v.picklist(['cascade', 'restrict', 'set null', 'set default', 'no action']);
const Names = v.array(v.string());
const Column = v.object({
  name: v.string(),
  type: v.string(),
  notNull: v.boolean(),
  default: v.nullable(v.string()),
  collation: v.nullable(v.string()),
  generated: v.nullable(v.object({ sql: v.string(), stored: v.boolean() })),
  comment: v.nullable(v.string()),
});
const ForeignKey = v.object({
  name: v.nullable(v.string()),
  columns: Names,
  table: v.string(),
  schema: v.nullable(v.string()),
  references: Names,
  onDelete: DeleteRule,
  onUpdate: DeleteRule,
  deferred: v.boolean(),
  sql: v.nullable(v.string()),
});
const Table = v.object({
  name: TableName,
  columns: v.array(Column),
  primaryKey: v.object({ columns: Names, name: v.nullable(v.string()), autoincrement: v.boolean() }),
  foreignKeys: v.array(ForeignKey),
  uniques: v.array(v.object({ name: v.nullable(v.string()), columns: Names })),
  checks: v.array(v.object({ name: v.nullable(v.string()), expression: v.string() })),
  indexes: v.array(v.object({ name: v.string(), columns: Names, unique: v.boolean(), sql: v.nullable(v.string()) })),
  constraints: Names,
  options: Names,
  // A schema is noted as the engine reads it back, which has triggers as statements.
  triggers: v.array(v.object({ kind: v.literal('written'), name: v.string(), sql: v.string() })),
  comment: v.nullable(v.string()),
  statement: v.nullable(v.string()),
});
const Schema = v.object({ prelude: Names, tables: v.array(Table), others: Names });
const Aside = v.variant('kind', [
  v.object({
    kind: v.literal('values'),
    table: TableName,
    aside: TableName,
    key: Names,
    columns: v.array(v.object({ was: v.string(), kept: v.string(), became: v.nullable(v.string()) })),
  }),
  v.object({ kind: v.literal('made'), table: TableName, aside: TableName, column: v.string() }),
  v.object({ kind: v.literal('rows'), table: TableName, aside: TableName, columns: Names }),
]);
const HandStep = v.object({
  on: v.picklist(Object.keys(dialects) as DialectName[]),
  where: v.picklist(['before', 'after', 'instead of']),
  table: v.nullable(v.string()),
  what: v.nullable(v.string()),
  sql: v.string(),
  back: v.nullable(v.string()),
});
const Renamed = v.object({ table: TableName, column: v.nullable(v.string()) });
const Noted = v.object({
  changes: v.array(v.object({ id: v.string(), sentence: v.string() })),
  before: Schema,
  after: Schema,
  renames: v.array(v.object({ ...Renamed.entries, now: Renamed })),
  asides: v.array(Aside),
  byHand: v.optional(v.array(HandStep), []),
  undoes: v.nullable(v.number()),
});
const Whole = v.pipe(v.unknown(), v.transform(Number), v.integer());
const Row = v.object({
  number: Whole,
  name: v.string(),
  applied_at: v.string(),
  milliseconds: Whole,
  rows_written: Whole,
  state: v.picklist(['applied', 'undone']),
  text_before: v.nullable(v.string()),
  text_after: v.string(),
  plan: v.pipe(v.string(), v.parseJson(), Noted),
} satisfies Readonly<Record<(typeof HISTORY_COLUMNS)[number], v.GenericSchema>>);

/**
 * The history of a database, the newest first, from the rows of its table. They may be somebody else's words where the database is:
 * what is no history of a plan, or states SQL that says more than it seems to, is refused whole.
 */
export function readHistory(rows: readonly (readonly unknown[])[], dialect: DialectName): Outcome<readonly HistoryEntry[]> {
  const history: HistoryEntry[] = [];
  for (const row of rows) {
    const read = v.safeParse(Row, Object.fromEntries(HISTORY_COLUMNS.map((name, at) => [name, row[at]])));
    if (!read.success) {
      const [issue] = read.issues;
      const place = v.getDotPath(issue);
      return unreadable(row[0], `${place === null ? '' : `at ${place}: `}${issue.message}`);
    }
    const { number, name, milliseconds, state, plan: noted } = read.output;
    for (const piece of [...notedSql(noted.before), ...notedSql(noted.after)]) {
      const wrong = wrongNoted(piece, dialect);
      if (wrong !== null) return unreadable(number, `“${cut(piece.sql)}” stands there as ${ARTICLES[piece.as]}: ${wrong}`);
    }
    const wrongBack = noted.byHand.find(({ back }) => back !== null && wrongByHand(back) !== null);
    if (wrongBack !== undefined) return unreadable(number, `“${cut(wrongBack.back ?? '')}” can be no step by hand`);
    history.push({
      number,
      name,
      at: read.output.applied_at,
      milliseconds,
      rows: read.output.rows_written,
      state,
      textBefore: read.output.text_before,
      textAfter: read.output.text_after,
      ...noted,
    });
  }
  return { ok: true, value: history };
}

const ARTICLES = { statement: 'a statement', type: 'a type', expression: 'an expression', constraint: 'a constraint' } as const;

function cut(sql: string): string {
  return sql.length > 100 ? `${sql.slice(0, 100)}…` : sql;
}

function unreadable(number: unknown, why: string): Outcome<never> {
  const message = `Number ${String(number).slice(0, 20)} of the history of this database cannot be read: ${why}. This program did not write it so. Mend that row of ${HISTORY_TABLE}, or take it out; nothing is planned here until then.`;
  return { ok: false, problem: { code: 'damaged', message } };
}
