import { differences, type HistoryEntry, NO_FORMER_NAMES } from '../core/changes/index.js';
import { readDesign } from '../core/design/index.js';
import { type Dialect, dialects } from '../core/dialects/index.js';
import type { Existing } from '../core/import/index.js';
import { type BroughtAgain, bringAgain } from '../core/revisions/index.js';
import { type Schema, withoutOwnTables } from '../core/schema/index.js';
import type { Engine, Outcome } from '../engines/index.js';
import { historyOf, makePlan, ownedNow, type PlanDatabase, type PlannedDatabase, withoutHandSteps } from './plan-database.js';

/** What somebody else's hand has changed in a database since it was last changed from here. */
export interface Drift {
  /** The plan that the database was last changed by. */
  readonly since: HistoryEntry;
  /** What differs, in sentences. */
  readonly differs: readonly string[];
  /** The same as edits of a text. */
  edits(text: string): BroughtAgain;
}

/** Looks for what somebody else's hand has changed in a database. Null where it was never changed from here. */
export async function driftOf(engine: Engine, schemas: readonly string[] | null): Promise<Outcome<Drift | null>> {
  const read = await engine.introspect(schemas);
  if (!read.ok) return read;
  const history = await historyOf(engine, read.value.schema);
  if (!history.ok) return history;
  const [since] = history.value;
  if (since === undefined) return { ok: true, value: null };
  const dialect = dialects[engine.dialect];
  const now = ownedNow(read.value.schema, since);
  const { choices } = read.value;
  const told = (schema: Schema): Existing => ({
    dialect: dialect.name,
    schema,
    statements: statementsOf(dialect, schema),
    choices,
  });
  return {
    ok: true,
    value: {
      since,
      differs: differences(dialect, since.after, now),
      edits: (text) => bringAgain(text, told(since.after), told(now)),
    },
  };
}

/** Plans how what somebody else's hand has changed is put back: the database becomes what it was last changed to from here. */
export async function planPuttingBack(
  engine: Engine,
  request: Pick<PlanDatabase, 'answers' | 'now' | 'schemas'>,
): Promise<Outcome<PlannedDatabase>> {
  const read = await engine.introspect(request.schemas);
  if (!read.ok) return read;
  const history = await historyOf(engine, read.value.schema);
  if (!history.ok) return history;
  const [newest] = history.value;
  if (newest === undefined)
    return {
      ok: false,
      problem: { code: 'missing', message: 'The database was never changed from here, so there is nothing to put back.' },
    };
  const seen = withoutOwnTables(read.value.schema);
  const planned = await makePlan(engine, {
    dialect: dialects[engine.dialect],
    before: seen,
    after: newest.after,
    stated: readDesign(newest.textAfter, engine.dialect).schema,
    former: NO_FORMER_NAMES,
    answers: withoutHandSteps(request.answers),
    last: newest.after,
    given: [],
    asides: [],
    doneByHand: [],
    byHandBefore: [],
    number: newest.number + 1,
    now: request.now,
  });
  if (!planned.ok) return planned;
  return { ok: true, value: { plan: planned.value, seen, wished: newest.after, history: history.value, undoes: null } };
}

/** The statement that makes each table, as the dialect prints it: both sides of a comparison are told in the same words. */
function statementsOf(dialect: Dialect, { tables }: Schema): ReadonlyMap<string, string> {
  return new Map(
    tables.map((table) => [table.name.name, dialect.createStatements({ prelude: [], tables: [table], others: [] })[0] ?? '']),
  );
}
