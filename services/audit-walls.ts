import { namedRow } from '../core/audit/index.js';
import { type ActorFound, actorsFound } from './actors-found.js';
import { auditedAt } from './audit-actor.js';
import type { Hole } from './audit-hole.js';
import { holesIn } from './audit-holes.js';
import { AuditedReads, type TriedWay } from './audit-reads.js';
import { type HeldByDatabase, sessionsOf } from './audit-session.js';
import { sessionWriteWays } from './audit-session-writes.js';
import { type Tells, tellsOf } from './audit-tells.js';
import { outIn, readWays, savedWay } from './audit-ways.js';
import { witnessAfter } from './audit-witnesses.js';
import { type WriteTo, writeWays } from './audit-writes.js';
import type { LookedAt } from './looked-at.js';

/** A way round a wall: what was asked as whom, what came out, and what had been let through. */
export interface Leak {
  readonly way: string;
  readonly as: string;
  /** The entity whose rows are meant; of a saved query the one that it is from. */
  readonly entity: string;
  /** The query or the commands, as a person can try them. */
  readonly text: string;
  readonly told: string;
  /** The statement by which it got out. */
  readonly statement: string;
}

/** How far an audit has come, and what it has found: plain data, from which it goes on. */
export interface AuditState {
  readonly actors: readonly ActorFound[];
  /** Whether commands are tried: the database could be written to when it was begun. */
  readonly writes: boolean;
  /** How many of its pieces are done, of all. */
  readonly done: number;
  readonly all: number;
  /** What it is at, in words; empty where it has come to its end. */
  readonly at: string;
  /** How many ways were tried and have held, and how many have not, by their kind. */
  readonly ways: Readonly<Record<string, { readonly held: number; readonly leaked: number }>>;
  readonly leaks: readonly Leak[];
  readonly holes: readonly Hole[];
  /** What is seen of rows that are not, by design. */
  readonly tells: readonly Tells[];
  /** Ways that could not be tried, by why. */
  readonly untried: readonly { readonly why: string; readonly ways: number; readonly example: string }[];
}

/** What no audit tries, in words. */
export const NEVER_TRIED: readonly string[] = [
  'Plain SQL: it goes round walls, and is off for whoever is not the system.',
  'What an engine tells by how long it takes beyond what an index gives.',
  'Numbers that the engine gives to new rows: they go on from those of rows out of reach.',
  'Whoever reaches the database past this program. A script of policies or views would hold it there.',
];

export interface AuditOptions {
  /** The audit that is gone on with; left out, it is begun. */
  readonly from?: AuditState;
  /** Stops between two ways; what was found stays, and it can be gone on with. */
  readonly signal?: AbortSignal;
  /** Stops at the end of the piece that so many milliseconds are over in; left out, it goes to its end. */
  readonly milliseconds?: number;
  readonly now: string;
  /** What is to hold the walls, where it is the database itself: then rows are asked for in sessions that it keeps them from. */
  readonly heldBy?: HeldByDatabase;
  /** Is told after each piece. */
  readonly step?: (state: AuditState) => void;
}

/** A piece of an audit. */
type Piece = PieceAs | { readonly kind: 'holes' };

/** What is tried as somebody. */
type PieceAs =
  | { readonly kind: 'read' | 'write'; readonly as: string; readonly entity: string }
  | { readonly kind: 'saved'; readonly as: string; readonly query: string };

/** As many leaks of one kind of way, to rows of one entity, are told one by one. */
const MOST_ALIKE = 2;
/** So many more rows of the actor's entity are looked at to tell whether a wall keeps, or frees, anybody. */
const MORE_ACTORS = 12;

/**
 * Tries to get round the walls of a design, as each kind of actor that they tell apart: every way is held against what the actor may
 * reach, which is found out without what lays walls on queries. Nothing that is written stays.
 *
 * @param writeTo null where the database cannot be written to: then commands are not tried
 */
export async function auditWalls(
  lookedAt: Omit<LookedAt, 'actor'>,
  writeTo: WriteTo | null,
  options: AuditOptions,
): Promise<AuditState> {
  const { signal } = options;
  const found = options.from?.actors ?? (await actorsFound(lookedAt, signal === undefined ? {} : { signal }));
  const { heldBy } = options;
  const stays = options.from === undefined && writeTo !== null ? await tableThatKeeps(writeTo) : null;
  const keepsWrites = heldBy === undefined || heldBy.how === 'policies';
  const writes = options.from?.writes ?? (writeTo !== null && stays === null && keepsWrites);
  const all = piecesOf(lookedAt, found, writes);
  // What a text leaves open is the same whoever holds its walls.
  const pieces = heldBy === undefined ? all : all.filter(({ kind }) => kind !== 'holes');
  const begun = {
    actors: found,
    writes,
    done: 0,
    all: pieces.length,
    at: '',
    ways: {},
    leaks: [],
    holes: [],
    tells: [],
    untried: stays === null ? [] : [stays],
  };
  const audit = new Audit(lookedAt, writeTo, options, options.from ?? begun);
  const until = options.milliseconds === undefined ? Number.POSITIVE_INFINITY : performance.now() + options.milliseconds;
  for (const [at, piece] of pieces.entries()) {
    if (at < audit.state.done) continue;
    if (signal?.aborted === true) break;
    await audit.carryOut(piece, pieces[at + 1]);
    options.step?.(audit.state);
    // At least one piece is done, however little time there is, so that it comes to its end.
    if (performance.now() > until) break;
  }
  return audit.state;
}

/** Why commands are not tried: a table that is written at once, whatever is taken back afterwards. */
async function tableThatKeeps({ engine, schemas }: WriteTo): Promise<AuditState['untried'][number] | null> {
  const looked = await engine.introspect(schemas);
  if (!looked.ok) return { why: looked.problem.message, ways: 0, example: 'commands' };
  // A table says how it is kept where that is otherwise than usual: without transactions, mostly.
  const table = looked.value.schema.tables.find(({ options: said }) => said.some((one) => /^engine=/i.test(one)));
  if (table === undefined) return null;
  const why = `${table.name.name} is kept without transactions, for all that is known: what commands write there could not be taken back.`;
  return { why, ways: 0, example: 'commands' };
}

function piecesOf({ design }: Pick<LookedAt, 'design'>, actors: readonly ActorFound[], writes: boolean): readonly Piece[] {
  const { model } = design;
  if (actors.length === 0) return [];
  const entities = Array.from(model.entities.keys());
  return [
    { kind: 'holes' },
    ...actors.flatMap(({ as }): Piece[] => [
      ...entities.map((entity): Piece => ({ kind: 'read', as, entity })),
      ...Array.from(model.queries.keys(), (query): Piece => ({ kind: 'saved', as, query })),
      ...(writes ? entities.map((entity): Piece => ({ kind: 'write', as, entity })) : []),
    ]),
  ];
}

/** One audit while it runs. */
class Audit {
  private readonly known = new Map<string, AuditedReads>();

  constructor(
    private readonly lookedAt: Omit<LookedAt, 'actor'>,
    private readonly writeTo: WriteTo | null,
    private readonly options: AuditOptions,
    public state: AuditState,
  ) {}

  /** Carries out one piece; what it found counts only where it came to its end, so that it is not counted twice. */
  async carryOut(piece: Piece, next: Piece | undefined): Promise<void> {
    const before = this.state;
    if (piece.kind === 'holes') {
      const everybody = await this.everybody();
      this.state = { ...before, holes: await holesIn(everybody), tells: await tellsOf(everybody) };
    } else
      for await (const one of this.triedIn(piece)) {
        if (this.isStopped()) break;
        this.note(one, piece);
      }
    if (this.isStopped()) {
      this.state = before;
      return;
    }
    for (const { blind, audited } of this.known.values()) {
      for (const why of blind) this.notTried(why, 0, `rows, as ${audited.as}`);
      blind.clear();
    }
    this.state = { ...this.state, done: this.state.done + 1, at: next === undefined ? '' : wordsOf(next) };
  }

  private isStopped(): boolean {
    return this.options.signal?.aborted === true;
  }

  private async *triedIn(piece: PieceAs): AsyncGenerator<TriedWay> {
    const reads = await this.readsAs(piece.as);
    if (reads === null) return;
    if (piece.kind === 'read') yield* readWays(reads, piece.entity);
    else if (piece.kind === 'write' && this.writeTo !== null)
      yield* reads.session === null
        ? writeWays(reads, this.writeTo, piece.entity)
        : sessionWriteWays(reads, this.writeTo, reads.session.said, piece.entity);
    else if (piece.kind === 'saved') {
      const query = this.lookedAt.design.model.queries.get(piece.query);
      if (query !== undefined) yield await savedWay(reads, query);
    }
  }

  private note({ way, text, tried }: TriedWay, piece: PieceAs): void {
    if (tried.kind === 'not tried') {
      this.notTried(tried.why, 1, text);
      return;
    }
    const { ways, leaks } = this.state;
    const counted = ways[way] ?? { held: 0, leaked: 0 };
    const has = tried.kind === 'held';
    const next = { held: counted.held + (has ? 1 : 0), leaked: counted.leaked + (has ? 0 : 1) };
    this.state = { ...this.state, ways: { ...ways, [way]: next } };
    if (tried.kind === 'held') return;
    const entity = piece.kind === 'saved' ? (this.lookedAt.design.model.queries.get(piece.query)?.entity ?? '') : piece.entity;
    const leak: Leak = { way, as: piece.as, entity, text, told: outIn(tried), statement: tried.statement };
    const alike = leaks.filter((one) => one.way === way && one.entity === entity);
    if (alike.length < MOST_ALIKE) this.state = { ...this.state, leaks: [...leaks, leak] };
  }

  /** Notes what could not be tried: so many ways, none where it could not be told which there are. */
  private notTried(why: string, ways: number, example: string): void {
    const same = this.state.untried.find((one) => one.why === why && (one.ways === 0) === (ways === 0));
    const rest = this.state.untried.filter((one) => one !== same);
    this.state = {
      ...this.state,
      untried: [...rest, { why, ways: (same?.ways ?? 0) + ways, example: same?.example ?? example }],
    };
  }

  private async readsAs(as: string): Promise<AuditedReads | null> {
    const known = this.known.get(as);
    if (known !== undefined) return known;
    const { now, signal, heldBy } = this.options;
    const call = { patient: true, ...(signal === undefined ? {} : { signal }) };
    const { actor: named } = this.lookedAt.design.actorOf(as);
    const audited =
      named === null ? null : await auditedAt(this.lookedAt, as, named, { now, ...(signal === undefined ? {} : { signal }) });
    if (named === null || audited?.ok !== true) {
      this.notTried(audited?.ok === false ? audited.problem.message : `${as} is no row of the text.`, 0, `all, as ${as}`);
      return null;
    }
    const session = heldBy === undefined ? null : sessionsOf(this.lookedAt, heldBy, named);
    if (session !== null && 'problem' in session) {
      this.notTried(session.problem, 0, `all, as ${as}`);
      return null;
    }
    const reads = new AuditedReads(this.lookedAt, audited.value, named, now, call, session);
    this.known.set(as, reads);
    return reads;
  }

  /** The kinds of actors, and more rows of their entity, to tell what a wall does to any of them. */
  private async everybody(): Promise<readonly AuditedReads[]> {
    const { model } = this.lookedAt.design;
    const names = new Set(this.state.actors.flatMap(({ as }) => (as === 'nobody' ? [] : [as])));
    const [first] = names;
    const reads = first === undefined ? null : await this.readsAs(first);
    if (reads !== null && model.actor !== null)
      for (const row of await witnessAfter(reads, model.actor, MORE_ACTORS)) names.add(namedRow(model, row));
    const all: AuditedReads[] = [];
    for (const as of names) {
      const one = await this.readsAs(as);
      if (one !== null) all.push(one);
    }
    return all;
  }
}

function wordsOf(piece: Piece): string {
  switch (piece.kind) {
    case 'holes':
      return 'what no wall stands on';
    case 'read':
      return `reading ${piece.entity} as ${piece.as}`;
    case 'write':
      return `writing ${piece.entity} as ${piece.as}`;
    case 'saved':
      return `${piece.query} as ${piece.as}`;
  }
}
