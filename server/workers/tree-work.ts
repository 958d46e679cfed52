/** The process of one open tree: it reads the text, keeps its database, and answers what is asked of it. */
import * as v from 'valibot';
import type {
  AuditPart,
  BesideAsk,
  CommandsAsk,
  CommandsDone,
  Counts,
  CountsAsk,
  EntityCounts,
  ExpectationsHeld,
  FileColumns,
  ImpactAsk,
  ImpactTold,
  KindsCompared,
  Profile,
  QueryRun,
  Reach,
  ReadsAsk,
  ReadsChecked,
  RehearsePlanAsk,
  RowChoices,
  RowsAnswer,
  RowsAsk,
  RowsBeside,
  RowsChecked,
  Run,
  RunResult,
  WaysAsk,
  WaysMeasured,
  Why,
  WhyAsk,
} from '../../contract/index.js';
import { AuditState } from '../../contract/index.js';
import type { Design } from '../../core/design/index.js';
import { fault } from '../../core/live/index.js';
import type { AnswerRow } from '../../core/load/index.js';
import type { ActorName } from '../../core/model/index.js';
import { inLines, parseParameters } from '../../core/notation/index.js';
import { PlanTooLarge, TITLE } from '../../core/plan/index.js';
import { keyIn, type TakenBack, type Undo } from '../../core/write/index.js';
import {
  actorAt,
  auditWalls,
  checkExpectations,
  checkReads,
  checkRows,
  compareKinds,
  type DoOutcome,
  type DoRequest,
  doCommands,
  entityCounts,
  foretellDelete,
  type KindsWay,
  keyOf,
  type LookedAt,
  measureWays,
  nowOf,
  profileRelation,
  type RowOrder,
  type RowsOutcome,
  type RunOutcome,
  type RunRequest,
  reachOf,
  roleCounts,
  rowChoices,
  rowOrder,
  rowsBeside,
  rowWindow,
  runPlain,
  runQuery,
  takeBackCommands,
  warnOfQuery,
  whySeen,
} from '../../services/index.js';
import { actorIn } from './actor-in.js';
import { answering } from './answering.js';
import type { DatabaseAccess } from './database-access.js';
import { type LiveAsk, LiveWork, refused } from './live.js';
import type { Work } from './messages.js';
import {
  type FoundFile,
  fileColumns,
  type LinesWish,
  type LinesWritten,
  lookAtFile,
  putFileIn,
  type RowsOut,
  type RowsOutWish,
  type SentFile,
  takeFileOut,
} from './row-files.js';
import { Shared } from './shared.js';
import {
  type ApplyWish,
  type ChangesOf,
  type LetGoWish,
  type NewFile,
  type PlanWish,
  type SettleWish,
  TreeChanges,
} from './tree-changes.js';
import { type OpenDatabase, TreeDatabase } from './tree-database.js';

const MOST_ROWS = 5000;
const MOST_ORDERS = 12;

let tell: (state: unknown) => void = () => undefined;
const database = new TreeDatabase((state) => tell(state));
const live = new LiveWork(() => orders.clear());
const changes = new TreeChanges((meant) => database.forChanges(meant));

/** What is asked of the database: with it, what is meant; the answer is what a page is sent. */
type Answer<Ask> = (open: OpenDatabase, ask: Ask, signal: AbortSignal, step: (what: unknown) => void) => Promise<object>;

/** An answer as JSON, so that nobody on the way has to write it out. Without a database: what says why there is none. */
function asked<Ask>(answer: Answer<Ask>, refuse: (problem: string) => object): Work {
  return async (argument, { signal, step }) => {
    const open = await database.ready();
    if ('problem' in open) return JSON.stringify(refuse(open.problem));
    try {
      const value = await answer(open, argument as Ask, signal, step);
      if (!database.isGone) return JSON.stringify(value);
      // What was made here was taken away, or broke: it is made again, and asked once more.
      const again = await database.ready();
      return JSON.stringify('problem' in again ? refuse(again.problem) : await answer(again, argument as Ask, signal, step));
    } catch (error) {
      if (error instanceof NoActor) return JSON.stringify(refuse(error.message));
      if (!(error instanceof PlanTooLarge)) throw error;
      return JSON.stringify(refuse('What this names stands on so much that no statement can hold it. Ask for less at once.'));
    }
  };
}

/** Nobody can work as whom was asked for. */
class NoActor extends Error {}

/** On whose behalf, as a page asks for it. @throws NoActor */
function behalfOf({ design }: OpenDatabase, as: string | undefined): { readonly as?: ActorName } {
  const behalf = actorIn(design, as);
  if ('problem' in behalf) throw new NoActor(behalf.problem);
  return behalf;
}

/** The database as somebody sees it. @throws NoActor */
async function seenBy(open: OpenDatabase, as: string | undefined, signal: AbortSignal): Promise<LookedAt> {
  const { as: named } = behalfOf(open, as);
  if (named === undefined) return open;
  const actor = await actorAt(open, named, null, { signal });
  if (!actor.ok) throw new NoActor(actor.problem.message);
  return { ...open, actor: actor.value };
}

/** What runs a query, but for how many rows it may bring. @throws NoActor */
function requestOf(
  open: OpenDatabase,
  { query: wanted, parameters, as }: QueryRun,
  signal: AbortSignal,
): Omit<RunRequest, 'rowLimit'> {
  const behalf = behalfOf(open, as);
  const query =
    wanted.kind === 'saved'
      ? wanted
      : { kind: 'text' as const, text: wanted.text, parameters: parseParameters(wanted.head) ?? [] };
  const { sampleKeys, madeHere, kept } = open;
  return { query, parameters, sampleKeys, madeHere, signal, ...(kept === undefined ? {} : { kept }), ...behalf };
}

function refusedOf({ findings, problems }: Extract<RunOutcome, { ok: false }>): Extract<RunResult, { ok: false }> {
  const told = findings.map(({ weight, code, message, span }) => ({ weight, code, message, span }));
  return { ok: false, findings: told, problems: [...problems] };
}

/** The answer to a statement of a person's own: lines, as a query that shows some gives them. */
async function plainAnswer({ engine, revision }: OpenDatabase, sql: string, signal: AbortSignal): Promise<RunResult> {
  const outcome = await runPlain(engine, sql, { rows: MOST_ROWS, signal });
  if (!outcome.ok) return { ok: false, findings: [], problems: [outcome.problem.message] };
  const { entry, cut, rows, text } = outcome.value;
  const log = [{ ...entry, parameters: [], steps: [...entry.steps] }];
  const cuts = cut ? [{ path: '', limit: rows, size: null }] : [];
  return {
    ok: true,
    entity: '',
    cardinality: 'many',
    flat: true,
    loads: false,
    text,
    rows,
    page: false,
    total: null,
    log,
    cuts,
    warnings: [],
    revision,
  };
}

/** Rows that are told one by one of each command. */
const MOST_TOLD = 200;

/** Commands that are carried out to stay, and what the keys that are made up for them are derived from. */
interface DoAsk extends CommandsAsk {
  readonly seed: string;
}

/** An audit to be worked at for a while: from where it was, or from its beginning. */
interface AuditWish {
  readonly from: AuditState | null;
  readonly milliseconds: number;
}

/** Tries ways round the walls for a while; commands too, where the database can be written to. */
async function audited(open: OpenDatabase, { from, milliseconds }: AuditWish, signal: AbortSignal): Promise<AuditPart> {
  const { design, madeHere, schemas } = open;
  const wrong = design.findings.find(({ weight }) => weight === 'error');
  if (wrong !== undefined)
    return { ok: false, problem: `There is something wrong in the text, so that no audit says anything: ${wrong.message}` };
  const writable = open.toWrite();
  const writeTo = 'problem' in writable ? null : { engine: writable.engine, schemas };
  try {
    const now = nowOf(design.model, madeHere);
    const state = await auditWalls(open, writeTo, { now, signal, milliseconds, ...(from === null ? {} : { from }) });
    return { ok: true, state: v.parse(AuditState, state) };
  } finally {
    if (!('problem' in writable)) await writable.close();
  }
}

/** Commands that were carried out, with what it takes to take them back; null where that is not kept. */
type CommandsWritten = CommandsDone & { readonly undo?: Undo | null };

/** Carries commands out so that they stay. */
async function carriedOut(open: OpenDatabase, { text, seed, as }: DoAsk, signal: AbortSignal): Promise<CommandsWritten> {
  // What is made here is made anew without the commands that are taken back; of all else how it was is kept.
  const keeps = open.madeHere ? {} : { keeps: { schemas: open.schemas } };
  const done = await withWritable(open, { text, seed, rehearse: false, signal, ...keeps, ...behalfOf(open, as) });
  // Rows come and go by it, so that their order is found anew.
  orders.clear();
  return done;
}

function refusedCommands(problem: string): Extract<CommandsDone, { ok: false }> {
  return { ok: false, findings: [], problems: [problem], reached: [], log: [] };
}

/** Carries commands out, and tells what they did. */
async function withWritable(
  open: OpenDatabase,
  given: Pick<DoRequest, 'text' | 'as' | 'seed' | 'rehearse' | 'signal' | 'keeps'>,
): Promise<CommandsWritten> {
  const { design, sampleKeys, madeHere } = open;
  const writable = open.toWrite();
  if ('problem' in writable) return refusedCommands(writable.problem);
  try {
    const now = nowOf(design.model, madeHere);
    const outcome = await doCommands(design, writable.engine, { ...given, sampleKeys, madeHere, now, schemas: open.schemas });
    const findings = outcome.findings.map(({ weight, code, message, span }) => ({ weight, code, message, span }));
    const log = logOf(outcome);
    if (!outcome.ok)
      return { ok: false, findings, problems: [...outcome.problems], reached: outcome.spans.slice(0, outcome.reached), log };
    const lines = outcome.carried.lines.map(({ rows }, index) => ({
      span: outcome.spans[index] ?? { start: 0, end: 0 },
      rows: rows.slice(0, MOST_TOLD).map((row) => ({
        ...row,
        key: String(row.key),
        link: row.link === null ? null : { ...row.link, key: String(row.link.key) },
        cells: [...row.cells],
      })),
      more: Math.max(0, rows.length - MOST_TOLD),
    }));
    const { along, undo } = outcome.carried;
    return { ok: true, lines, along: [...along], log, findings, ...(given.keeps === undefined ? {} : { undo }) };
  } finally {
    await writable.close();
  }
}

/** The statements of commands, those that read as those that write. */
function logOf(outcome: DoOutcome): Extract<CommandsDone, { ok: true }>['log'] {
  const log = outcome.ok ? outcome.carried.log : outcome.log;
  return log.map((entry) => {
    const span = outcome.spans[entry.line] ?? null;
    if (entry.kind === 'read') {
      const { kind: _kind, line: _line, ...read } = entry;
      return { ...read, parameters: [...read.parameters], steps: [], span };
    }
    const parameters = entry.values.map((value) => ({ ...value, count: null }));
    const { sql, plain, rows, milliseconds } = entry;
    const common = { path: '', byColumns: false, times: 1, cells: 0, bytes: 0, steps: [], span };
    return { ...common, plain, sent: sql, parameters, rows, milliseconds };
  });
}

/** Rows of a group that are shown, of all that a delete reaches. */
const MOST_LOOKS = 5;

/** What a delete takes along, empties or is refused by, with a few of the rows of each. */
async function foretold(open: OpenDatabase, { rows, as }: ImpactAsk, signal: AbortSignal): Promise<ImpactTold> {
  const { design, engine, sampleKeys, madeHere, schemas } = open;
  const now = nowOf(design.model, madeHere);
  const told = await foretellDelete(design, engine, {
    rows,
    sampleKeys,
    now,
    schemas,
    looks: MOST_LOOKS,
    signal,
    ...behalfOf(open, as),
  });
  if (!told.ok) return { ok: false, problems: [...told.findings.map(({ message }) => message), ...told.problems] };
  const { groups, rows: meant, unforeseen, log } = told.impact;
  const looked = await seenBy(open, as, signal);
  const shown = await Promise.all(
    told.looks.map(async (look) => {
      if (look === null) return [];
      const { entity, keys } = look;
      const window = await rowWindow(looked, { entity, where: '', orderBy: '', via: null }, keys, 0, { signal });
      const titles = window.ok ? titlesByKey(design, entity, window.value) : new Map<string, string>();
      // Which rows are hidden is not told by their keys either.
      return keys
        .filter((key) => looked === open || titles.has(String(key)))
        .map((key) => ({ entity, key: String(key), shown: titles.get(String(key)) ?? String(key) }));
    }),
  );
  return {
    ok: true,
    rows: [...meant],
    groups: groups.map(({ over, ways, columns: _columns, ...group }, at) => ({
      ...group,
      over: [...over],
      ways: [...ways],
      looks: shown[at] ?? [],
    })),
    unforeseen: [...unforeseen],
    sql: log.map(({ plain }) => plain),
  };
}

function problemIn({ findings, problems }: Extract<RowsOutcome<unknown>, { ok: false }>): string {
  return [...findings.map(({ message }) => message), ...problems].join(' ');
}

function titlesByKey({ model }: Design, entity: string, rows: readonly Readonly<Record<string, unknown>>[]) {
  return new Map(rows.map((row) => [String(keyIn(model, entity, row as AnswerRow)), String(row[TITLE] ?? '')]));
}

const orders = new Map<string, Shared<RowsOutcome<RowOrder>>>();
/** The database that the orders are of: one that was made anew has other rows, also where its text is the same. */
let ordered: OpenDatabase | null = null;

/** Orders that were found lately, so that each window of a grid is fetched by keys alone. */
function orderOf(
  open: OpenDatabase,
  looked: LookedAt,
  wanted: Omit<RowsAsk, 'from' | 'count'>,
  signal: AbortSignal,
): Promise<RowsOutcome<RowOrder>> {
  if (ordered !== open) orders.clear();
  ordered = open;
  const key = JSON.stringify(wanted);
  const there = orders.get(key);
  orders.delete(key);
  const found =
    there === undefined || there.stopped ? new Shared((stopping) => rowOrder(looked, wanted, { signal: stopping })) : there;
  orders.set(key, found);
  const forget = () => {
    if (orders.get(key) === found) orders.delete(key);
  };
  // What failed may go well the next time.
  found.result.then((outcome) => outcome.ok || forget(), forget);
  const [oldest] = orders.keys();
  if (orders.size > MOST_ORDERS && oldest !== undefined) orders.delete(oldest);
  return found.wait(signal);
}

let compared: { readonly key: string; readonly made: Promise<readonly KindsWay[]> } | null = null;

/** Ways to store kinds that were made lately: each takes seconds, and is the same for the same text. One at a time is made. */
function waysOf({ design, revision }: OpenDatabase, entity: string): Promise<readonly KindsWay[]> {
  const key = JSON.stringify([revision, entity, design.text]);
  if (compared?.key === key) return compared.made;
  const before = compared?.made.catch(() => null) ?? Promise.resolve(null);
  const made = before.then(() => compareKinds(design, entity));
  compared = { key, made };
  made.catch(() => {
    if (compared?.key === key) compared = null;
  });
  return made;
}

const works: Readonly<Record<string, Work>> = {
  renew: (argument, { step }) => {
    tell = step;
    return database.renew(argument as DatabaseAccess);
  },
  reopen: (argument, { step }) => {
    tell = step;
    return database.reopen(argument as DatabaseAccess);
  },
  'stop making': () => database.stop(),

  run: asked<Run>(
    async (open, { query, ...wanted }, signal): Promise<RunResult> => {
      if (query.kind === 'sql' && wanted.as !== undefined && wanted.as !== 'system')
        return refusedOf({
          ok: false,
          findings: [],
          problems: ['Plain SQL goes round every wall: it is asked by the system alone.'],
        });
      if (query.kind === 'sql') return plainAnswer(open, query.text, signal);
      const explained = wanted.measured === true ? ('measured' as const) : ('expected' as const);
      const request = {
        ...requestOf(open, { query, ...wanted }, signal),
        rowLimit: MOST_ROWS,
        explained,
        total: wanted.total === true,
      };
      const outcome = await runQuery(open.design, open.engine, request);
      if (!outcome.ok) return refusedOf(outcome);
      const { answer } = outcome;
      const warnings = (await warnOfQuery(open.design, open.engine, request, answer)).map(({ fix, ...warning }) => ({
        ...warning,
        fix: fix === null ? null : { ...fix, edits: [...fix.edits] },
      }));
      const log = answer.log.map((entry) => ({ ...entry, parameters: [...entry.parameters], steps: [...entry.steps] }));
      return { ok: true, ...answer, log, cuts: [...answer.cuts], warnings, revision: open.revision };
    },
    (problem): RunResult => ({ ok: false, findings: [], problems: [problem] }),
  ),

  rehearse: asked<CommandsAsk>(
    (open, { text, as }, signal) => withWritable(open, { text, rehearse: true, signal, ...behalfOf(open, as) }),
    refusedCommands,
  ),

  do: asked<DoAsk>(carriedOut, refusedCommands),

  'look at file': asked<SentFile>(lookAtFile, (problem): FoundFile => ({ ok: false, problem })),

  'file columns': asked<string>(
    (open, entity) => Promise.resolve(fileColumns(open, entity)),
    (): FileColumns => ({ uses: [], whole: [] }),
  ),

  'lines in': asked<LinesWish>(
    async (open, wish, signal, step): Promise<LinesWritten> => {
      try {
        return await putFileIn(open, wish, signal, step);
      } finally {
        if (!wish.preview) orders.clear();
      }
    },
    (problem): LinesWritten => ({ ok: false, problems: [problem] }),
  ),

  'rows out': asked<RowsOutWish>(
    async (open, wish, signal) => takeFileOut(await seenBy(open, wish.as, signal), wish, signal),
    (problem): RowsOut => ({ ok: false, problem }),
  ),

  'take back': asked<string>(
    async (open, undo): Promise<TakenBack> => {
      const writable = open.toWrite();
      if ('problem' in writable) return { ok: false, problem: writable.problem };
      try {
        return await takeBackCommands(open.design, writable.engine, JSON.parse(undo) as Undo, open.schemas);
      } finally {
        orders.clear();
        await writable.close();
      }
    },
    (problem): TakenBack => ({ ok: false, problem }),
  ),

  ways: asked<WaysAsk>(
    async (open, { run, most }, signal): Promise<WaysMeasured> => {
      const outcome = await measureWays(open.design, open.engine, requestOf(open, run, signal), most);
      if (!outcome.ok) return refusedOf(outcome);
      const costs = outcome.measured.costs.map((cost) => ({ ...cost, sql: [...cost.sql] }));
      return { ok: true, ...outcome.measured, costs };
    },
    (problem): WaysMeasured => ({ ok: false, findings: [], problems: [problem] }),
  ),

  reads: asked<ReadsAsk>(
    async (open, { run, paths }, signal): Promise<ReadsChecked> => {
      const request = requestOf(open, run, signal);
      const { query } = request;
      const line = paths.trim() === '' ? '' : `\nreads ${paths.trim()}`;
      const asked = query.kind === 'text' ? { ...query, text: `${inLines(query.text)}${line}` } : query;
      const outcome = await checkReads(open.design, open.engine, { ...request, query: asked, rowLimit: MOST_ROWS });
      if (!outcome.ok) return refusedOf(outcome);
      const { lines, unloaded, unread, wide, ...checked } = outcome.checked;
      const few = wide.map(({ path, fields }) => ({ path, fields: [...fields] }));
      return { ok: true, ...checked, lines: [...lines], unloaded: [...unloaded], unread: [...unread], wide: few };
    },
    (problem): ReadsChecked => ({ ok: false, findings: [], problems: [problem] }),
  ),

  rows: asked<RowsAsk>(
    async (open, { from, count, ...wanted }, signal): Promise<RowsAnswer> => {
      const looked = await seenBy(open, wanted.as, signal);
      const order = await orderOf(open, looked, wanted, signal);
      if (!order.ok) return { ok: false, findings: [...order.findings], problems: [...order.problems] };
      const { keys, cut, sql, milliseconds } = order.value;
      const rows = await rowWindow(looked, wanted, keys.slice(from, from + count), from, { signal });
      return rows.ok
        ? { ok: true, total: keys.length, cut, rows: [...rows.value], sql, milliseconds, revision: open.revision }
        : { ok: false, findings: [...rows.findings], problems: [...rows.problems] };
    },
    (problem): RowsAnswer => ({ ok: false, findings: [], problems: [problem] }),
  ),

  'rows beside': asked<BesideAsk>(
    async (open, { one, other, ...wanted }, signal): Promise<RowsBeside> => {
      const looking = [];
      for (const as of [one, other]) {
        const looked = await seenBy(open, as, signal);
        const order = await orderOf(open, looked, { ...wanted, as }, signal);
        if (!order.ok) return { ok: false, problem: problemIn(order) };
        looking.push({ looked, order: order.value });
      }
      const [first, second] = looking;
      if (first === undefined || second === undefined) throw new Error('there are two to look');
      const told = await rowsBeside(open, wanted, first, second, { signal });
      return told.ok ? { ok: true, ...told.value, rows: [...told.value.rows] } : { ok: false, problem: problemIn(told) };
    },
    (problem): RowsBeside => ({ ok: false, problem }),
  ),

  live: asked<LiveAsk>(
    (open, ask, signal) => live.answer(open, ask, signal),
    (problem) => refused([fault(503, problem)]),
  ),

  counts: asked<CountsAsk>(
    async (open, { entity, keys: written, as }, signal): Promise<Counts> => {
      if (!open.design.model.entities.has(entity)) return { counts: {} };
      const keys = written.map((key) => keyOf(open.design, entity, String(key))).filter((key) => key !== null);
      return { counts: (await roleCounts(await seenBy(open, as, signal), entity, keys, { signal })) as Counts['counts'] };
    },
    (): Counts => ({ counts: {} }),
  ),

  'entity counts': asked<{ readonly as?: string }>(
    async (open, { as }, signal): Promise<EntityCounts> => ({
      rows: await entityCounts(await seenBy(open, as, signal), { signal }),
    }),
    (): EntityCounts => ({ rows: {} }),
  ),

  profile: asked<string>(
    async (open, relation, signal): Promise<Profile> => {
      const outcome = await profileRelation(open, relation, { signal });
      if (!outcome.ok) return outcome;
      const { ends, empty, dangling, statements, ...rest } = outcome.profile;
      const shown = ends.map((end) => ({ ...end, histogram: { ...end.histogram, buckets: [...end.histogram.buckets] } }));
      return { ok: true, ...rest, ends: shown, empty: [...empty], dangling: [...dangling], statements: [...statements] };
    },
    (problem): Profile => ({ ok: false, problem }),
  ),

  'row findings': asked<null>(
    async ({ design, engine, sampleKeys, madeHere, revision }, _ask, signal): Promise<RowsChecked> => {
      const { findings, unanswered, ...rest } = await checkRows(design, engine, { sampleKeys, madeHere, signal });
      const told = findings.map((finding) => ({
        ...finding,
        examples: finding.examples.map(({ key, values }) => ({ key, values: [...values] })),
      }));
      return { ok: true, ...rest, findings: told, unanswered: [...unanswered], revision };
    },
    (problem): RowsChecked => ({ ok: false, problem }),
  ),

  why: asked<WhyAsk>(
    async (open, { row, as }, signal): Promise<Why> => {
      const { as: actor = { kind: 'system' as const } } = behalfOf(open, as);
      const named = open.design.rowOf(row);
      if (named.row === null) return { ok: false, problem: named.findings[0]?.message ?? `${row}: this is no row.` };
      const told = await whySeen(open, named.row, actor, { signal });
      if (!told.ok) return { ok: false, problem: told.problem.message };
      const walls = told.value.walls.map(({ unless, lines, ...wall }) => ({
        ...wall,
        unless: [...unless],
        lines: lines.map(({ parts, ...line }) => ({ ...line, parts: [...parts] })),
      }));
      return { ok: true, ...told.value, walls };
    },
    (problem): Why => ({ ok: false, problem }),
  ),

  reach: asked<null>(
    async (open, _ask, signal): Promise<Reach> => {
      const { actors, entities, walls, unwalled, lifts } = await reachOf(open, { signal });
      return {
        ok: true,
        actors: actors.map((one) => ({ ...one, reach: { ...one.reach } })),
        entities: [...entities],
        walls: walls.map((wall) => ({ ...wall, sentences: [...wall.sentences] })),
        unwalled: unwalled.map(({ entity, path }) => ({ entity, path: [...path] })),
        lifts: lifts.map((lift) => ({ ...lift, walls: [...lift.walls] })),
      };
    },
    (problem): Reach => ({ ok: false, problem }),
  ),

  audit: asked<AuditWish>(audited, (problem): AuditPart => ({ ok: false, problem })),

  expectations: asked<null>(
    async (open, _ask, signal): Promise<ExpectationsHeld> => {
      const { design, engine, sampleKeys, madeHere, revision } = open;
      const writes = design.expectations.some(({ subject }) => subject.kind === 'command');
      const writable = writes ? open.toWrite() : { problem: 'Nothing is carried out.' };
      try {
        const now = nowOf(design.model, madeHere);
        const of = { engine, sampleKeys, madeHere, now, signal, writable: 'problem' in writable ? writable : writable.engine };
        const runs = await checkExpectations(design, of);
        return { ok: true, runs: runs.map(({ lines, ...run }) => ({ ...run, lines: [...lines] })), revision };
      } finally {
        if (!('problem' in writable)) await writable.close();
      }
    },
    (problem): ExpectationsHeld => ({ ok: false, problem }),
  ),

  kinds: asked<string>(
    async (open, entity): Promise<KindsCompared | object> => {
      const kinds = open.design.model.entities.get(entity)?.kinds ?? null;
      if (kinds === null || kinds.base !== null) return { missing: true };
      const ways = await waysOf(open, entity);
      return { ways: ways.map((way) => ({ ...way, asks: way.asks.map((ask) => ({ ...ask })), lost: [...way.lost] })) };
    },
    (problem) => ({ message: problem }),
  ),

  plan: async (wish) => JSON.stringify(await changes.plan(wish as PlanWish)),

  'rehearse plan': async (plan, { signal, step }) =>
    JSON.stringify(await changes.rehearse(plan as RehearsePlanAsk, signal, step)),

  'apply plan': async (wish, { signal, step }) => JSON.stringify(await changes.apply(wish as ApplyWish, signal, step)),

  'settle plan': async (wish, { signal, step }) => JSON.stringify(await changes.settle(wish as SettleWish, signal, step)),

  'let go': async (wish) => JSON.stringify(await changes.letGo(wish as LetGoWish)),

  drift: async (of) => JSON.stringify(await changes.drift(of as ChangesOf)),

  stands: async (of) => JSON.stringify(await changes.stands(of as ChangesOf)),

  'make file': async (wish) => JSON.stringify({ problem: await changes.makeFile(wish as NewFile) }),

  impact: asked<ImpactAsk>(foretold, (problem): ImpactTold => ({ ok: false, problems: [problem] })),

  choices: asked<{ readonly entity: string; readonly sought: string; readonly as?: string }>(
    async (open, { entity, sought, as }, signal): Promise<RowChoices> => {
      if (!open.design.model.entities.has(entity)) return { rows: [], more: false };
      const { rows, more } = await rowChoices(await seenBy(open, as, signal), entity, sought, { signal });
      return { rows: [...rows], more };
    },
    (): RowChoices => ({ rows: [], more: false }),
  ),
};

answering(works, () => database.close());
