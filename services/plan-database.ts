import {
  type Answers,
  type ApplyRequest,
  type ChangePlan,
  formerNamesOf,
  HISTORY_TABLE,
  type HistoryEntry,
  historyEntry,
  historyQuery,
  planChanges,
  withoutOwnTables,
} from '../core/changes/index.js';
import type { Design } from '../core/design/index.js';
import { dialects } from '../core/dialects/index.js';
import type { Schema } from '../core/schema/index.js';
import type { Engine, Outcome } from '../engines/index.js';
import { type OpenScratch, wishedSchema } from './wished-schema.js';

/** What a plan is made from, beside the design and the database. */
export interface PlanDatabase {
  readonly answers: Answers;
  readonly openScratch: OpenScratch;
  /** What now is, as a timestamp in wire form. */
  readonly now: string;
  /** Of a server: the schemas that are read; null for all. */
  readonly schemas: readonly string[] | null;
}

/** A plan for a database, and what it takes to carry it out on that database as it was seen. */
export interface PlannedDatabase {
  readonly plan: ChangePlan;
  readonly seen: Schema;
  readonly wished: Schema;
  /** What was done to the database before, the newest first. */
  readonly history: readonly HistoryEntry[];
}

/** Plans what turns a database into what a design asks for. The database is only read. */
export async function planDatabase(design: Design, engine: Engine, request: PlanDatabase): Promise<Outcome<PlannedDatabase>> {
  const wished = await wishedSchema(design, request.openScratch);
  if (!wished.ok) return wished;
  const read = await engine.introspect(request.schemas);
  if (!read.ok) return read;
  const history = await historyOf(engine, read.value.schema);
  if (!history.ok) return history;
  const seen = withoutOwnTables(read.value.schema);
  const last = history.value.find(({ state }) => state === 'applied')?.after ?? null;
  const planning = planChanges({
    dialect: design.dialect,
    before: seen,
    after: wished.value,
    former: formerNamesOf(design.syntax, design.model),
    answers: request.answers,
    last,
    now: request.now,
  });
  for (let turn = planning.next(); ; ) {
    if (turn.done === true) return { ok: true, value: { plan: turn.value, seen, wished: wished.value, history: history.value } };
    const rows = await engine.ask(turn.value);
    if (!rows.ok) return rows;
    turn = planning.next(rows.value);
  }
}

/** What was done to a database, the newest first; nothing where it was never changed from here. */
export async function historyOf(engine: Engine, schema: Schema): Promise<Outcome<readonly HistoryEntry[]>> {
  if (!schema.tables.some(({ name }) => name.name === HISTORY_TABLE)) return { ok: true, value: [] };
  const rows = await engine.ask(historyQuery(dialects[engine.dialect]));
  return rows.ok ? { ok: true, value: rows.value.map(historyEntry) } : rows;
}

/** What is carried out of a plan, under a name. */
export function applying(
  design: Design,
  { plan, seen, wished, history }: PlannedDatabase,
  name: string,
  now: string,
): ApplyRequest {
  return {
    operations: plan.operations,
    seen,
    wished,
    noted: {
      name,
      at: now,
      textBefore: history.find(({ state }) => state === 'applied')?.textAfter ?? null,
      textAfter: design.text,
      changes: plan.changes.map(({ id, sentence }) => ({ id, sentence })),
      before: seen,
      after: wished,
    },
  };
}
