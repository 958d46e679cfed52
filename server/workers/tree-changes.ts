import { rm } from 'node:fs/promises';
import type {
  ChangesPlanned,
  DatabaseStands,
  DriftEdits,
  PlanApplied,
  PlanGoal,
  PlanRehearsed,
  PlanSettled,
  RehearsePlanAsk,
  SettlePlanAsk,
  ToldHistory,
  WorkStep,
} from '../../contract/index.js';
import {
  type Applied,
  type HistoryEntry,
  handStepWords,
  locksOf,
  NO_ANSWERS,
  readAnswers,
  scriptOfPlan,
  tableKey,
  writtenPlace,
} from '../../core/changes/index.js';
import { type Design, readDesign, statedSqlOf } from '../../core/design/index.js';
import { fileEngine, type Outcome } from '../../engines/index.js';
import {
  applying,
  byHandWords,
  copyForRehearsal,
  driftOf,
  leftHalfDone,
  leftWords,
  letGo,
  makeDatabase,
  notAppliedWords,
  nowOf,
  type PlanDatabase,
  type PlannedDatabase,
  planDatabase,
  planPuttingBack,
  planUndo,
  type RehearsalCopy,
  rehearsePlan,
  settleHalfDone,
  wishedSchema,
  wordsForHistory,
  wordsFromHistory,
} from '../../services/index.js';
import { type DatabaseMeant, type DesignDatabase, scratchFile, scratchPath } from './design-database.js';
import { agreementTo, sqlToAgreeTo } from './sql-to-agree-to.js';

/** The text and the database that changes are planned for. */
export interface ChangesOf {
  readonly tree: string;
  readonly folder: string;
  readonly text: string;
  readonly revision: number;
  readonly database: DatabaseMeant;
}

/** What a plan is made of. */
export interface PlanWish extends ChangesOf {
  /** By what the database is told apart among those of the design. */
  readonly of: string;
  readonly goal: PlanGoal;
  /** Lines, as a person writes them. */
  readonly answers: string;
  /** The text that the database came in with, or was made of, where its history begins later; null where it has none. */
  readonly madeOf: string | null;
  /** Digests of the SQL that a person has agreed to. */
  readonly agreed: readonly string[];
}

/** A plan to carry out as it was seen, under a name. */
export interface ApplyWish {
  readonly plan: string;
  /** The database that is meant: a plan is carried out on no other than its own. */
  readonly of: string;
  readonly name: string;
  /** Whether a person has agreed to what is lost. */
  readonly allowLoss: boolean;
}

/** What came of a plan; once it was carried out with the digests of what its history says since, in this program's own words. */
export type ApplyOutcome =
  | Exclude<PlanApplied, { kind: 'applied' }>
  | (Extract<PlanApplied, { kind: 'applied' }> & { readonly words: readonly string[] });

/** What is to become of a plan that was left half done. */
export interface SettleWish extends ChangesOf {
  /** Digests of the SQL that a person has agreed to. */
  readonly agreed: readonly string[];
  readonly way: SettlePlanAsk['way'];
}

/** The plan of which nothing is to be kept aside any more. */
export interface LetGoWish extends ChangesOf {
  readonly number: number;
}

/** A file that a design is to be carried over to. */
export interface NewFile {
  readonly path: string;
  readonly text: string;
  /** Whether the sample rows are put in. */
  readonly samples: boolean;
}

/** A plan that a person has seen. */
interface SeenPlan {
  readonly wish: PlanWish;
  readonly planned: PlannedDatabase;
  readonly design: Design;
  readonly now: string;
}

/** So many plans are kept for whoever looks at them; one that was let go of is made again. */
const MOST_PLANS = 8;

type Opened = ReturnType<DesignDatabase['open']>;
type Find = (meant: DatabaseMeant) => Promise<DesignDatabase | { readonly problem: string }>;

/** Plans for the databases of one tree: made, tried on a copy, and carried out as they were seen. */
export class TreeChanges {
  private readonly plans = new Map<string, SeenPlan>();
  private made = 0;

  constructor(private readonly find: Find) {}

  /** Plans what turns a database into what the text says, or what takes its newest plan back. */
  async plan(wish: PlanWish): Promise<ChangesPlanned> {
    const started = performance.now();
    const { answers, faults } = readAnswers(wish.answers);
    const [fault] = faults;
    if (fault !== undefined) return refused(`Line ${fault.line} of the answers: ${fault.message}`);
    return this.at<ChangesPlanned>(wish.database, 'look', async (engine, database) => {
      const design = readDesign(wish.text, engine.dialect);
      const [wrong] = design.findings.filter(({ weight }) => weight === 'error');
      if (wish.goal === 'text' && wrong !== undefined)
        return refused(
          `${wrong.message}\nWhat is wrong would be left out of the database. Mend it in the text first: see Findings.`,
        );
      const { byHand } = wish.goal === 'text' ? answers : NO_ANSWERS;
      const written = byHand
        .filter(({ on }) => on === engine.dialect)
        .flatMap(({ sql, back }) => (back === null ? [sql] : [sql, back]));
      const stated = statedSqlOf(design.model, engine.dialect).map(({ sql }) => sql);
      const asks = await this.asks([...stated, ...written], database, wish.agreed);
      if (asks !== null) return asks;
      const now = nowOf(design.model, false);
      const { schemas } = database;
      const read = await engine.introspect(schemas);
      const left = read.ok ? await leftHalfDone(engine, read.value.schema) : read;
      if (!left.ok) return refused(left.problem.message);
      if (left.value !== null) {
        const { canFinish, canTakeBack, statements } = left.value;
        const asksLeft = await this.asks(statements, database, wish.agreed);
        if (asksLeft !== null) return { ...asksLeft, problem: `${leftWords(left.value)} ${LOOK_AT_JOURNAL}` };
        return { ok: false, problem: leftWords(left.value), left: { canFinish, canTakeBack } };
      }
      const planned = await this.planned(design, database, engine, { answers, now, madeOf: wish.madeOf, goal: wish.goal });
      if (!planned.ok) return refused(planned.problem.message);
      if (wish.goal !== 'text') {
        const text = textAfter({ wish, planned: planned.value });
        const asksBack = await this.asks(wordsFromHistory(planned.value, text, engine.dialect), database, wish.agreed);
        if (asksBack !== null) return { ...asksBack, problem: LOOK_AT_HISTORY };
      }
      this.made += 1;
      const id = `${process.pid}-${this.made}`;
      this.plans.set(id, { wish, planned: planned.value, design, now });
      const [oldest] = this.plans.keys();
      if (this.plans.size > MOST_PLANS && oldest !== undefined) this.plans.delete(oldest);
      return { ...toldPlan(planned.value, design), plan: id, revision: wish.revision, milliseconds: performance.now() - started };
    });
  }

  /** What a person is asked before SQL that somebody wrote is run beyond files of this program's own; null for nothing. */
  private async asks(
    written: readonly string[],
    { agreedAt, server }: DesignDatabase,
    agreed: readonly string[],
  ): Promise<Extract<ChangesPlanned, { ok: false }> | null> {
    if (agreedAt === null) return null;
    const stated = written.map((sql) => ({ sql }));
    const asks = await sqlToAgreeTo(stated, { place: agreedAt, server, agreed });
    if (asks === null) return null;
    return {
      ok: false,
      problem: 'The text, or what is done by hand, states SQL of its own. Look at it before it is run anywhere.',
      states: { statements: [...asks.statements], powers: asks.powers },
    };
  }

  private planned(
    design: Design,
    database: DesignDatabase,
    engine: Opened['engine'],
    request: Pick<PlanDatabase, 'answers' | 'now'> & Pick<PlanWish, 'madeOf' | 'goal'>,
  ): Promise<Outcome<PlannedDatabase>> {
    const { answers, now, madeOf, goal } = request;
    const { schemas } = database;
    switch (goal) {
      case 'text':
        return this.planForth(design, database, engine, request);
      case 'before':
        return planUndo(engine, { answers, now, schemas, madeOf });
      case 'last':
        return planPuttingBack(engine, { answers, now, schemas });
    }
  }

  private async planForth(
    design: Design,
    database: DesignDatabase,
    engine: Opened['engine'],
    { answers, now, madeOf }: Pick<PlanDatabase, 'answers' | 'now'> & Pick<PlanWish, 'madeOf'>,
  ): Promise<Outcome<PlannedDatabase>> {
    const wished = await wishedSchema(design, database.scratch);
    if (!wished.ok) return wished;
    const madeAs = madeOf === null ? null : readDesign(madeOf, engine.dialect).schema;
    const { schemas } = database;
    return planDatabase(design, engine, { answers, wished: wished.value, now, schemas, madeAs });
  }

  /** Carries a plan out on a copy of the rows. */
  async rehearse({ plan, most }: RehearsePlanAsk, signal: AbortSignal, step: (what: WorkStep) => void): Promise<PlanRehearsed> {
    const seen = this.plans.get(plan);
    if (seen === undefined) return planLetGo;
    const { wish, planned, design } = seen;
    const database = await this.find(wish.database);
    if ('problem' in database) return { kind: 'refused', problem: database.problem };
    const { engine, close } = database.open('look');
    try {
      step({ what: 'Copying the rows' });
      const copy = await copyOf(database, seen, most, signal, step);
      if (!copy.ok) return { kind: 'refused', problem: copy.problem.message };
      const request = applying(planned, { text: textAfter(seen), name: 'rehearsal', now: seen.now, schemas: null });
      const of = planned.plan.operations.length;
      const rehearsal = await rehearsePlan(engine, copy.value.scratch, planned, request, {
        ...(wish.goal === 'text' ? { design } : {}),
        retold: database.file === null,
        signal,
        progress: ({ done, what }) => step({ what: `${what} (${done + 1} of ${of})`, share: done / Math.max(of, 1) }),
      });
      if (!rehearsal.ok) return { kind: 'refused', problem: rehearsal.problem.message };
      const { applied, milliseconds, tables, unheld, back } = rehearsal.value;
      if (applied.kind !== 'applied') return notDone(applied);
      return {
        kind: 'rehearsed',
        milliseconds: [...milliseconds],
        tables: tables.map(({ changed, ...table }) => ({
          ...table,
          changed: changed.map((row) => ({
            ...row,
            before: { ...row.before },
            after: row.after === null ? null : { ...row.after },
          })),
        })),
        unheld: [...unheld],
        back: back.plain,
        part: copy.value.part,
      };
    } finally {
      await close();
    }
  }

  /** Carries a plan out on its database, as it was seen. */
  async apply(
    { plan, of: meant, name, allowLoss }: ApplyWish,
    signal: AbortSignal,
    step: (what: WorkStep) => void,
  ): Promise<ApplyOutcome> {
    const seen = this.plans.get(plan);
    if (seen === undefined || seen.wish.of !== meant) return planLetGo;
    const { wish, planned } = seen;
    const { questions, faults, changes, operations } = planned.plan;
    const open = questions.length + faults.length;
    if (open > 0) return { kind: 'refused', problem: 'The plan has open questions. Answer them first.' };
    if (changes.some(({ verdict }) => verdict === 'loses data') && !allowLoss)
      return { kind: 'refused', problem: 'Data would be lost, and nobody has agreed to that.' };
    const database = await this.find(wish.database);
    if ('problem' in database) return { kind: 'refused', problem: database.problem };
    const number = (planned.history[0]?.number ?? 0) + 1;
    const before = database.inPlace && database.file !== null ? `${database.file}.before-${number}` : null;
    if (database.file !== null && before !== null) {
      step({ what: 'Copying the file beside itself' });
      const copied = await fileEngine.copy(database.file, before, { label: database.file, signal });
      if (!copied.ok) return { kind: 'refused', problem: copied.problem.message };
    }
    const { engine, close } = database.open('write');
    try {
      const request = applying(planned, { text: textAfter(seen), name, now: seen.now, schemas: database.schemas });
      const of = operations.length;
      const applied = await engine.apply(request, {
        signal,
        progress: (done) =>
          done.kind === 'steps'
            ? step({ what: `${done.what} (${done.done + 1} of ${of})`, share: done.done / Math.max(of, 1) })
            : undefined,
      });
      if (before !== null && (!applied.ok || applied.value.kind !== 'applied')) await rm(before, { force: true });
      if (!applied.ok) return { kind: 'refused', problem: applied.problem.message };
      if (applied.value.kind !== 'applied') return notDone(applied.value);
      this.plans.clear();
      const { steps } = applied.value;
      const total = (what: 'milliseconds' | 'rows') => steps.reduce((sum, one) => sum + one[what], 0);
      return {
        kind: 'applied',
        number: applied.value.number,
        name,
        milliseconds: total('milliseconds'),
        rows: total('rows'),
        before,
        words: wordsAgreedTo(database, wordsForHistory(planned)),
      };
    } finally {
      await close();
    }
  }

  /** Finishes a plan that was left half done, or takes it back. */
  settle(
    { database: meant, way, agreed }: SettleWish,
    signal: AbortSignal,
    step: (what: WorkStep) => void,
  ): Promise<PlanSettled> {
    return this.at<PlanSettled>(meant, 'write', async (engine, database) => {
      const read = await engine.introspect(database.schemas);
      const left = read.ok ? await leftHalfDone(engine, read.value.schema) : read;
      if (!left.ok) return refused(left.problem.message);
      if ((await this.asks(left.value?.statements ?? [], database, agreed)) !== null) return refused(LOOK_AT_JOURNAL);
      const settled = await settleHalfDone(engine, way, {
        signal,
        progress: (done) =>
          done.kind === 'steps' ? step({ what: done.what, share: done.done / Math.max(done.of, 1) }) : undefined,
      });
      if (!settled.ok) return refused(settled.problem.message);
      const { value } = settled;
      if (value.kind === 'applied') return { ok: true, told: `Finished, as number ${value.number} of the history.` };
      if (value.kind === 'taken back')
        return { ok: true, told: `“${value.name}” was taken back: the database is as it was before.` };
      return refused(notAppliedWords(value));
    });
  }

  /** Lets go of what was kept aside of a plan. */
  letGo({ database: meant, number }: LetGoWish): Promise<PlanSettled> {
    return this.at<PlanSettled>(meant, 'write', async (engine, { schemas }) => {
      const gone = await letGo(engine, number, schemas);
      return gone.ok ? { ok: true, told: `Let go of what was kept in ${gone.value.join(', ')}.` } : refused(gone.problem.message);
    });
  }

  /** Where a database stands: what was done to it last, and what somebody else's hand has changed since. */
  stands({ database: meant, text }: ChangesOf): Promise<Exclude<DatabaseStands, { ok: true }> | Stands> {
    return this.at<Exclude<DatabaseStands, { ok: true }> | Stands>(meant, 'look', async (engine, { schemas }) => {
      const drift = await driftOf(engine, schemas);
      if (!drift.ok) return refused(drift.problem.message);
      if (drift.value === null) return { ok: true, newest: null, textAfter: null, isText: false, drift: [] };
      const { since, differs } = drift.value;
      const { number, name, at, textAfter: after } = since;
      return { ok: true, newest: { number, name, at }, textAfter: after, isText: after === text, drift: [...differs] };
    });
  }

  /** What somebody else's hand has changed in a database, as edits of the text. */
  drift({ database: meant, text, revision }: ChangesOf): Promise<DriftEdits> {
    return this.at<DriftEdits>(meant, 'look', async (engine, { schemas }) => {
      const drift = await driftOf(engine, schemas);
      if (!drift.ok) return refused(drift.problem.message);
      if (drift.value === null)
        return refused('The database was never changed from here, so there is nothing to hold it against.');
      const edits = drift.value.edits(text);
      const left = edits.changes.flatMap(({ where, was, now, why }) =>
        why === null ? [] : [`${where}: ${(now ?? was ?? '').trim()}: ${why}`],
      );
      return { ok: true, revision, text: edits.text, left };
    });
  }

  /** Does something with a database that is open meanwhile, and closed whatever comes of it. */
  private async at<Told>(
    meant: DatabaseMeant,
    mode: 'look' | 'write',
    does: (engine: Opened['engine'], database: DesignDatabase) => Promise<Told>,
  ): Promise<Told | Refusal> {
    const database = await this.find(meant);
    if ('problem' in database) return refused(database.problem);
    const { engine, close } = database.open(mode);
    try {
      return await does(engine, database);
    } finally {
      await close();
    }
  }

  /** Makes a file that a design is carried over to: an empty one, or one with the sample rows, noted in its own history. */
  async makeFile({ path, text, samples }: NewFile): Promise<string | null> {
    const design = readDesign(text, fileEngine.dialect);
    if (samples) {
      const made = await makeDatabase(design, path);
      if (!made.ok) return made.problem.message;
    }
    const engine = fileEngine.open({ path, mode: samples ? 'write' : 'make', milliseconds: LONGEST_MAKE, label: 'The new file' });
    try {
      const read = await engine.introspect();
      if (!read.ok) return read.problem.message;
      if (!samples) return null;
      const { schema } = read.value;
      const before = { prelude: [], tables: [], others: [] };
      const noted = {
        name: 'Made with the sample rows',
        at: nowOf(design.model, false),
        textBefore: null,
        textAfter: text,
        changes: [],
        before,
        after: schema,
        renames: [],
        asides: [],
        byHand: [],
        undoes: null,
      };
      const applied = await engine.apply({ operations: [], schemas: null, seen: schema, wished: schema, noted });
      return applied.ok ? null : applied.problem.message;
    } finally {
      await engine.close();
    }
  }
}

const LONGEST_MAKE = 60_000;

/** Where a database stands, with the text that it follows. */
export interface Stands {
  readonly ok: true;
  readonly newest: { readonly number: number; readonly name: string; readonly at: string } | null;
  readonly textAfter: string | null;
  readonly isText: boolean;
  readonly drift: string[];
}

interface Refusal {
  readonly ok: false;
  readonly problem: string;
}

const refused = (problem: string): Refusal => ({ ok: false, problem });

const LOOK_AT_JOURNAL =
  'Look at its statements first: they stand in the database, and whoever writes there could have put them there.';
const LOOK_AT_HISTORY =
  'This would be done in the words of the database’s own history, which was not written from here. Look at them before they are run.';

/** The digests of SQL that this program has noted itself, which nobody has to be asked about again. */
function wordsAgreedTo({ agreedAt }: DesignDatabase, words: readonly string[]): readonly string[] {
  return agreedAt === null ? [] : words.map((sql) => agreementTo(sql, agreedAt));
}

const planLetGo = {
  kind: 'refused' as const,
  problem: 'This plan was let go of, as the program was started anew, or others were made since. It is made again.',
};

/** The text that the database follows when a plan is carried out. */
function textAfter({ wish, planned }: Pick<SeenPlan, 'wish' | 'planned'>): string {
  switch (wish.goal) {
    case 'text':
      return wish.text;
    case 'before':
      return planned.undoes?.textBefore ?? wish.madeOf ?? '';
    case 'last':
      return planned.history[0]?.textAfter ?? wish.text;
  }
}

/** Why a plan was not carried out. */
function notDone(applied: Exclude<Applied, { kind: 'applied' }>): Extract<PlanApplied, { kind: 'refused' | 'moved' }> {
  return applied.kind === 'moved'
    ? { kind: 'moved', differs: [...applied.differs] }
    : { kind: 'refused', problem: notAppliedWords(applied) };
}

/** A copy of the rows to rehearse on. */
async function copyOf(
  database: DesignDatabase,
  { wish, planned, design }: SeenPlan,
  most: number,
  signal: AbortSignal,
  step: (what: WorkStep) => void,
): Promise<Outcome<RehearsalCopy>> {
  const { file } = database;
  if (file !== null) {
    const path = scratchPath(wish.folder, wish.tree);
    const copied = await fileEngine.copy(file, path, {
      label: file,
      signal,
      progress: ({ done, of }) => step({ what: 'Copying the rows', share: of === 0 ? 1 : done / of }),
    });
    if (!copied.ok) return copied;
    return { ok: true, value: { scratch: scratchFile(path, 'write', 'The copy'), part: null } };
  }
  const { engine, close } = database.open('look');
  try {
    return await copyForRehearsal(engine, planned.seen, database.scratch, {
      design,
      most,
      signal,
      progress: (rows) => step({ what: `Copying the rows: ${rows.toLocaleString('en')}` }),
    });
  } finally {
    await close();
  }
}

type ToldPlan = Omit<Extract<ChangesPlanned, { ok: true }>, 'plan' | 'revision' | 'milliseconds'>;

function toldPlan(planned: PlannedDatabase, design: Design): ToldPlan {
  const { plan, history, undoes } = planned;
  const { changes, questions, faults, operations } = plan;
  return {
    ok: true,
    changes: changes.map(({ name: _name, table, ...change }) => ({
      ...change,
      table: table === null ? null : writtenPlace(table),
    })),
    questions: questions.map(({ table, columns: _columns, examples, look, ways, ...question }) => ({
      ...question,
      table: table.name,
      examples: [...examples],
      look: look.map((rows) => rows.map(({ values, keep }) => ({ values: [...values], keep }))),
      ways: [...ways],
    })),
    faults: [...faults],
    byHand: [...byHandWords(planned)],
    operations: operations.map(({ sql, what, table, byHand = false }) => ({ sql, what, table, byHand })),
    script: scriptOfPlan(design.dialect, operations),
    locks: locksOf(design.dialect.name),
    undoes: undoes === null ? null : { number: undoes.number, name: undoes.name },
    history: history.map(toldHistory),
    entities: entitiesOf(design, changes),
  };
}

function toldHistory({
  changes,
  asides,
  byHand,
  before: _before,
  after: _after,
  renames: _renames,
  ...entry
}: HistoryEntry): ToldHistory {
  return {
    ...entry,
    changes: [...changes.map(({ sentence }) => sentence), ...byHand.map((step) => handStepWords({ step, becomes: 'placed' }))],
    asides: asides.map(({ aside }) => aside.name),
  };
}

/** The entities, and the relations in a table of their own, whose tables become otherwise. */
function entitiesOf({ model }: Design, changes: PlannedDatabase['plan']['changes']): Record<string, 'new' | 'changed'> {
  const told = new Map<string, 'new' | 'changed'>();
  for (const { table, kind, subject } of changes) {
    if (table === null) continue;
    const isNew = kind === 'new' && subject === 'table';
    told.set(tableKey(table), isNew ? 'new' : (told.get(tableKey(table)) ?? 'changed'));
  }
  const relations = Array.from(model.relations.values()).flatMap((relation) =>
    relation.kind === 'pivot' || relation.kind === 'polymorphic pivot' ? [relation] : [],
  );
  return Object.fromEntries(
    [...model.entities.values(), ...relations].flatMap(({ name, table }) => {
      const how = told.get(tableKey(table.value));
      return how === undefined ? [] : [[name, how]];
    }),
  );
}
