import {
  type Audited,
  type ColumnsOfTables,
  columnsInTables,
  type Difference,
  differenceOf,
  type HeldKeys,
  type Reachable,
  type ReachableRows,
  reachedWhere,
  withinReach,
} from '../core/audit/index.js';
import { type Preparation, type Prepared, writtenSql } from '../core/load/index.js';
import { type ActorName, type Query, queryOf } from '../core/model/index.js';
import type { LoadWay, ParameterSyntax } from '../core/notation/index.js';
import { planQuery, type QueryPlan } from '../core/plan/index.js';
import type { Walled } from '../core/walls/index.js';
import type { CallOptions, Engine, Outcome } from '../engines/index.js';
import type { AuditSession } from './audit-session.js';
import { type GivenParameters, queryFor, type WantedQuery } from './found-query.js';
import { withListsFilled } from './given-parameters.js';
import { type LookedAt, preparedFor } from './looked-at.js';
import { asksForOne, withOnlyRows } from './only-rows.js';
import { atMost, runQuery } from './run-query.js';

/** What came of a way that was tried. */
export type Tried =
  /** What was answered is what may be told. */
  | { readonly kind: 'held' }
  | { readonly kind: 'other'; readonly difference: Difference; readonly statement: string }
  | { readonly kind: 'not tried'; readonly why: string };

/** A way that was tried: its kind, what was asked, and what came of it. */
export interface TriedWay {
  readonly way: string;
  /** The query or the commands, as a person can try them. */
  readonly text: string;
  readonly tried: Tried;
}

/** As many rows as an answer has at most, at each of its levels. */
const ROW_LIMIT = 1000;
/** How many rows of its own a query is asked for, where it has more below them than are compared. */
const MOST_ROOTS = [null, 20, 3, 1] as const;
const HELD: Tried = { kind: 'held' };
const LOAD_WAYS: readonly LoadWay[] = ['batch', 'join', 'json', 'row'];
const HELD_KEYS: readonly HeldKeys[] = ['declared ones stay', 'all are emptied'];

/** The database as somebody to be audited looks at it, and what it would be without the rows that they do not reach. */
export class AuditedReads {
  /** Why rows could not be looked up; what they would have been tried with was not. */
  readonly blind = new Set<string>();
  private readonly reachables = new Map<string, Promise<Outcome<ReachableRows>>>();
  private readonly tables: ColumnsOfTables;
  /** Their values, for plans of the system that speak of them. */
  private readonly me: Walled;

  constructor(
    readonly lookedAt: Omit<LookedAt, 'actor'>,
    readonly audited: Audited,
    readonly named: ActorName,
    readonly now: string,
    readonly call: CallOptions,
    /** Where the database is to hold the walls itself, their sessions; null where this program does. */
    readonly session: AuditSession | null = null,
  ) {
    const { model, schema } = lookedAt.design;
    this.me = { model, walls: [], me: audited.isNobody ? null : audited.me, pinned: new Map() };
    this.tables = columnsInTables(model, schema);
  }

  private get heldKeys(): readonly HeldKeys[] {
    return this.session?.heldKeys ?? HELD_KEYS;
  }

  /** Prepares a plan of the system, which looks at all rows, and takes nothing for granted that the database may not keep. */
  prepared(plan: QueryPlan, parameters: GivenParameters = {}): Preparation {
    const { design, engine, sampleKeys } = this.lookedAt;
    const all = { design, engine, sampleKeys, madeHere: false, actor: 'system' as const };
    return preparedFor(all, plan, { parameters, now: this.now, me: this.me });
  }

  /** The database as their sessions have it: rows may lack those that they point at, whatever else it keeps. */
  private inSession({ design, engine }: AuditSession): Omit<LookedAt, 'actor'> {
    return { design, engine, sampleKeys: this.lookedAt.sampleKeys, madeHere: false };
  }

  /** The rows that they reach, of all entities of which they do not reach all. */
  reachable(lifts: readonly string[]): Promise<Outcome<ReachableRows>> {
    const name = JSON.stringify([...lifts].sort());
    const known = this.reachables.get(name) ?? this.reachableAnew(lifts);
    this.reachables.set(name, known);
    return known;
  }

  private async reachableAnew(lifts: readonly string[]): Promise<Outcome<ReachableRows>> {
    const { model } = this.lookedAt.design;
    const rows = new Map<string, Reachable>();
    for (const entity of model.entities.values()) {
      const where = reachedWhere(this.audited, entity.name, 'read', lifts);
      if (where === null) continue;
      const ready = this.prepared(planQuery(model, queryOf(entity.name, { where: [where] }), { output: 'keys' }));
      if (!ready.ok) return { ok: false, problem: { code: 'refused', message: ready.problems.join(' ') } };
      const { compiled, parameters } = ready.prepared;
      rows.set(entity.name, { keys: { ...compiled.select, orderBy: [] }, parameters });
    }
    return { ok: true, value: rows };
  }

  /** Asks a query on their behalf, in each way to load, and holds the answer against what may be told. */
  async asked(wanted: WantedQuery, given: GivenParameters = {}): Promise<Tried> {
    const { design } = this.lookedAt;
    const found = queryFor(design, wanted);
    if (!('query' in found))
      return { kind: 'not tried', why: [...found.findings.map(({ message }) => message), ...found.problems].join(' ') };
    if (this.session !== null && found.query.lifts.length > 0)
      return { kind: 'not tried', why: 'It sees over a wall, which the database itself lets nobody do.' };
    const text: { lines: string; parameters: readonly ParameterSyntax[] } = { lines: found.lines, parameters: found.parameters };
    const filled = withListsFilled(design, found.query, text, given);
    if ('problems' in filled) return { kind: 'not tried', why: filled.problems.join(' ') };
    const reachable = await this.reachable(found.query.lifts);
    if (!reachable.ok) return { kind: 'not tried', why: reachable.problem.message };
    const asked = { wanted, given, query: filled.query, parameters: filled.parameters, reachable: reachable.value };
    for (const most of MOST_ROOTS) {
      const tried = await this.heldWithin({ ...asked, most });
      if (tried.kind !== 'cut') return tried;
    }
    return { kind: 'not tried', why: 'Its answer has more rows than are compared.' };
  }

  /** Only where an answer is another with the one reading of the keys that rows hold is the other looked at. */
  private async heldWithin(asked: Asked): Promise<Tried | Cut> {
    let tried: Tried = HELD;
    for (const heldKeys of this.heldKeys) {
      const expected = await this.expected(asked, heldKeys);
      if ('kind' in expected) return expected;
      const again = await this.heldInAllWays(asked, expected);
      if (again.kind !== 'other') return again;
      if (tried.kind === 'held') tried = again;
    }
    return tried;
  }

  private async heldInAllWays(asked: Asked, expected: Expected): Promise<Tried | Cut> {
    for (const way of asked.query.loads.length > 0 ? LOAD_WAYS : LOAD_WAYS.slice(0, 1)) {
      const tried = await this.heldBy(asked, way, expected);
      // Rows that are joined multiply; what is cut for that alone is compared in the other ways.
      if (tried.kind !== 'held' && !(tried.kind === 'cut' && way === 'join')) return tried;
    }
    return HELD;
  }

  /** Asks a plan that no text states on their behalf, and holds what is read by it against what may be told. */
  async planned(plan: QueryPlan, actor: Walled, read: ReadPlan = asLoad): Promise<Tried> {
    const { engine } = this.lookedAt;
    const reachable = await this.reachable(plan.lifts);
    if (!reachable.ok) return { kind: 'not tried', why: reachable.problem.message };
    const asked = this.session === null ? { ...this.lookedAt, actor } : { ...this.inSession(this.session), actor: this.me };
    const own = preparedFor(asked, plan, { now: this.now });
    const all = this.prepared(plan);
    if (!own.ok || !all.ok) return { kind: 'not tried', why: 'it cannot be prepared' };
    const { model, dialect } = this.lookedAt.design;
    const told = await read(asked.engine, own.prepared, this.call);
    if (!told.ok) return { kind: 'not tried', why: told.problem.message };
    let first: Difference | null = null;
    for (const heldKeys of this.heldKeys) {
      const prepared = withinReach(all.prepared, model, this.tables, reachable.value, heldKeys);
      const expected = await read(engine, prepared, this.call);
      if (!expected.ok) return { kind: 'not tried', why: expected.problem.message };
      const difference = differenceOf(told.value, expected.value);
      if (difference === null) return { kind: 'held' };
      first ??= difference;
    }
    if (first === null) return { kind: 'held' };
    return { kind: 'other', difference: first, statement: writtenSql(own.prepared, dialect) };
  }

  private async heldBy({ wanted, given, most, query }: Asked, way: LoadWay, expected: Expected): Promise<Tried | Cut> {
    const { session } = this;
    const { design, engine, madeHere, sampleKeys, kept } = session === null ? this.lookedAt : this.inSession(session);
    const told = await runQuery(design, engine, {
      query: wanted,
      parameters: given,
      sampleKeys,
      madeHere,
      now: this.now,
      rowLimit: ROW_LIMIT,
      explained: 'not',
      ...(session === null ? { as: this.named } : { actor: this.me }),
      way,
      ...(most === null ? {} : { most }),
      ...(kept === undefined ? {} : { kept }),
      ...(this.call.signal === undefined ? {} : { signal: this.call.signal }),
    });
    if (!told.ok) {
      // A query for one row is refused where there is none, or where there are several; so it is to be.
      const why = [...told.findings.map(({ message }) => message), ...told.problems].join(' ');
      if (expected.refused) return HELD;
      const isOther = query.cardinality === 'one';
      return isOther
        ? { kind: 'other', difference: { path: '', told: why, expected: expected.rows }, statement: '' }
        : { kind: 'not tried', why };
    }
    const { answer } = told;
    if (answer.cuts.length > 0) return { kind: 'cut' };
    const said: unknown = JSON.parse(answer.text);
    const difference = expected.refused ? { path: '', told: said, expected: null } : differenceOf(said, expected.rows);
    return difference === null ? HELD : { kind: 'other', difference, statement: answer.log[0]?.plain ?? '' };
  }

  /** What a query answers where there are no rows but those within reach. */
  private async expected(
    { query, most, parameters, reachable }: Asked,
    heldKeys: HeldKeys,
  ): Promise<Expected | Cut | Extract<Tried, { kind: 'not tried' }>> {
    const { design, engine } = this.lookedAt;
    const ready = this.prepared(planQuery(design.model, atMost(query, most ?? undefined)), parameters);
    if (!ready.ok) return { kind: 'not tried', why: ready.problems.join(' ') };
    const prepared = withinReach(ready.prepared, design.model, this.tables, reachable, heldKeys);
    const read = await engine.run('load', { prepared, rowLimit: ROW_LIMIT, explained: 'not' }, this.call);
    if (!read.ok) return { kind: 'not tried', why: read.problem.message };
    if (read.value.cuts.length > 0) return { kind: 'cut' };
    const { cardinality } = query;
    if (cardinality === 'exists') return { refused: false, rows: [{ exists: read.value.rows > 0 }] };
    if (cardinality === 'one' && read.value.rows !== 1) return { refused: true, rows: [] };
    const rows = JSON.parse(read.value.text) as Record<string, unknown>[];
    if (query.show !== null || !asksForOne(query.loads)) return { refused: false, rows };
    const ones = withOnlyRows(rows, query.loads);
    return ones.ok ? { refused: false, rows: ones.rows } : { refused: true, rows: [] };
  }
}

/** Reads rows by a plan that is prepared, as plain data. */
export type ReadPlan = (engine: Engine, prepared: Prepared, call: CallOptions) => Promise<Outcome<unknown>>;

const asLoad: ReadPlan = async (engine, prepared, call) => {
  const read = await engine.run('load', { prepared, rowLimit: ROW_LIMIT, explained: 'not' }, call);
  return read.ok ? { ok: true, value: JSON.parse(read.value.text) as unknown } : read;
};

/** A query that is asked as somebody, and all that it takes to find out what it may answer. */
interface Asked {
  readonly wanted: WantedQuery;
  readonly given: GivenParameters;
  /** The same with its lists filled in. */
  readonly query: Query;
  readonly parameters: GivenParameters;
  readonly reachable: ReachableRows;
  /** How many rows of its own it has at most; null for as many as it says. */
  readonly most: number | null;
}

/** An answer was cut, so that it cannot be compared. */
interface Cut {
  readonly kind: 'cut';
}

/** What may be told: rows, or that the query is refused. */
interface Expected {
  readonly refused: boolean;
  readonly rows: readonly unknown[];
}
