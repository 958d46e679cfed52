import {
  type Answers,
  type ApplyRequest,
  type ChangePlan,
  formerNamesOf,
  formerNamesOfUndo,
  HISTORY_TABLE,
  type HistoryEntry,
  handStepWords,
  historyQuery,
  type PlanRequest,
  planChanges,
  renamesIn,
  scriptOfPlan,
  stayingWords,
  tableKey,
} from '../core/changes/index.js';
import { type Design, readDesign } from '../core/design/index.js';
import { dialects } from '../core/dialects/index.js';
import { type Schema, withoutOwnTables } from '../core/schema/index.js';
import type { Engine, Outcome } from '../engines/index.js';
import { leftHalfDone, leftWords } from './left-half-done.js';
import { readHistory } from './read-history.js';
import { givenTables } from './wished-schema.js';

/** What a plan is made from, beside the design and the database. */
export interface PlanDatabase {
  readonly answers: Answers;
  /** What the design asks for, as the engine itself says it. */
  readonly wished: Schema;
  /** What now is, as a timestamp in wire form. */
  readonly now: string;
  /** Of a server: the schemas that are read; null for all. */
  readonly schemas: readonly string[] | null;
  /** What the database was made as, where its history does not say; null where that is not known. */
  readonly madeAs: Schema | null;
}

/** A plan for a database, and what it takes to carry it out on that database as it was seen. */
export interface PlannedDatabase {
  readonly plan: ChangePlan;
  readonly seen: Schema;
  readonly wished: Schema;
  /** What was done to the database before, the newest first. */
  readonly history: readonly HistoryEntry[];
  /** The plan that this one takes back; null where it is none of that sort. */
  readonly undoes: HistoryEntry | null;
}

/** Plans what turns a database into what a design asks for. The database is only read. */
export async function planDatabase(design: Design, engine: Engine, request: PlanDatabase): Promise<Outcome<PlannedDatabase>> {
  const { wished } = request;
  const read = await engine.introspect(request.schemas);
  if (!read.ok) return read;
  const left = await leftHalfDone(engine, read.value.schema);
  if (!left.ok) return left;
  if (left.value !== null) return { ok: false, problem: { code: 'busy', message: leftWords(left.value) } };
  const history = await historyOf(engine, read.value.schema);
  if (!history.ok) return history;
  const seen = withoutOwnTables(read.value.schema);
  const [newest] = history.value;
  const planned = await makePlan(engine, {
    dialect: design.dialect,
    before: seen,
    after: wished,
    stated: design.schema,
    former: formerNamesOf(design.syntax, design.model),
    answers: request.answers,
    last: newest?.after ?? request.madeAs,
    given: givenTables(design),
    asides: [],
    doneByHand: [],
    byHandBefore: history.value.flatMap(({ state, byHand }) => (state === 'applied' ? byHand : [])),
    number: (newest?.number ?? 0) + 1,
    now: request.now,
  });
  if (!planned.ok) return planned;
  return { ok: true, value: { plan: planned.value, seen, wished, history: history.value, undoes: null } };
}

/**
 * Plans how the newest plan that still stands is taken back: the database becomes what it was before, and what was kept aside
 * comes back. Rows that were written since stay where there is a place for them; where there is none, the plan asks.
 *
 * @param request with the text that the database was made of, where its history begins later; null where that is not known
 */
export async function planUndo(
  engine: Engine,
  request: Omit<PlanDatabase, 'wished' | 'madeAs'> & { readonly madeOf: string | null },
): Promise<Outcome<PlannedDatabase>> {
  const dialect = dialects[engine.dialect];
  const read = await engine.introspect(request.schemas);
  if (!read.ok) return read;
  const left = await leftHalfDone(engine, read.value.schema);
  if (!left.ok) return left;
  if (left.value !== null) return { ok: false, problem: { code: 'busy', message: leftWords(left.value) } };
  const history = await historyOf(engine, read.value.schema);
  if (!history.ok) return history;
  const entry = history.value.find(({ state, undoes }) => state === 'applied' && undoes === null);
  const [newest] = history.value;
  if (entry === undefined || newest === undefined)
    return { ok: false, problem: { code: 'missing', message: 'There is no plan here that could be taken back.' } };
  const seen = withoutOwnTables(read.value.schema);
  const text = entry.textBefore ?? request.madeOf;
  const planned = await makePlan(engine, {
    dialect,
    before: seen,
    after: entry.before,
    stated: text === null ? null : readDesign(text, engine.dialect).schema,
    former: formerNamesOfUndo(entry),
    answers: withoutHandSteps(request.answers),
    last: newest.after,
    given: [],
    asides: entry.asides,
    doneByHand: entry.byHand,
    byHandBefore: [],
    number: newest.number + 1,
    now: request.now,
  });
  if (!planned.ok) return planned;
  return { ok: true, value: { plan: planned.value, seen, wished: entry.before, history: history.value, undoes: entry } };
}

/** Answers to the questions alone: what a person does by hand stands in plans that follow a text, and is taken back by its own way. */
export function withoutHandSteps(answers: Answers): Answers {
  return { ...answers, byHand: [] };
}

/** Makes a plan, whose questions to the rows the engine answers. */
export async function makePlan(engine: Engine, request: PlanRequest): Promise<Outcome<ChangePlan>> {
  const planning = planChanges(request);
  for (let turn = planning.next(); ; ) {
    if (turn.done === true) return { ok: true, value: turn.value };
    const rows = await engine.ask(turn.value);
    if (!rows.ok) return rows;
    turn = planning.next(rows.value);
  }
}

/** What was done to a database, the newest first; nothing where it was never changed from here. */
export async function historyOf(engine: Engine, schema: Schema): Promise<Outcome<readonly HistoryEntry[]>> {
  if (!schema.tables.some(({ name }) => name.name === HISTORY_TABLE)) return { ok: true, value: [] };
  const rows = await engine.ask(historyQuery(dialects[engine.dialect]));
  return rows.ok ? readHistory(rows.value, engine.dialect) : rows;
}

/** What of a database was the design's when it was last changed from here, as it is now; what is new beside it is somebody else's. */
export function ownedNow(schema: Schema, { after }: HistoryEntry): Schema {
  const named = new Set(after.tables.map(({ name }) => tableKey(name)));
  return {
    prelude: schema.prelude.filter((sql) => after.prelude.includes(sql)),
    tables: schema.tables.filter(({ name }) => named.has(tableKey(name))),
    others: schema.others.filter((sql) => after.others.includes(sql)),
  };
}

/**
 * What is carried out of a plan, under a name.
 *
 * @param text the text that the database follows since
 * @param schemas of a server: those that the plan was made from
 */
export function applying(
  planned: PlannedDatabase,
  {
    text,
    name,
    now,
    schemas,
  }: { readonly text: string; readonly name: string; readonly now: string; readonly schemas: readonly string[] | null },
): ApplyRequest {
  const { plan, seen, wished, history, undoes } = planned;
  return {
    operations: plan.operations,
    schemas,
    seen,
    wished,
    noted: {
      name,
      at: now,
      textBefore: history[0]?.textAfter ?? null,
      textAfter: text,
      changes: plan.changes.map(({ id, sentence }) => ({ id, sentence })),
      before: plan.owned,
      after: wished,
      renames: renamesIn(plan.paired),
      asides: plan.asides,
      byHand: plan.byHand.flatMap(({ step, becomes }) => (becomes === 'placed' ? [step] : [])),
      undoes: undoes?.number ?? null,
    },
  };
}

/** What is done by hand in a plan, and what of it stays where one is taken back, in words. */
export function byHandWords({ plan, undoes }: PlannedDatabase): readonly string[] {
  return [...plan.byHand.map(handStepWords), ...(undoes?.byHand.filter(({ back }) => back === null).map(stayingWords) ?? [])];
}

/** A plan as a script that notes itself in the history of the database, so that it is known there, and runs once. */
export function scriptThatNotes(engine: Pick<Engine, 'dialect'>, planned: PlannedDatabase, noted: ApplyRequest['noted']): string {
  const number = (planned.history[0]?.number ?? 0) + 1;
  const entry: HistoryEntry = { ...noted, number, milliseconds: 0, rows: 0, state: 'applied' };
  return scriptOfPlan(dialects[engine.dialect], planned.plan.operations, entry);
}
