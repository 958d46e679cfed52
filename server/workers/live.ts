import { randomUUID } from 'node:crypto';
import type { LiveAnswered } from '../../contract/index.js';
import type { Design } from '../../core/design/index.js';
import { rowText } from '../../core/edits/index.js';
import { fault, faultsDocument, type LiveFault } from '../../core/live/index.js';
import { type ActorName, entityOf } from '../../core/model/index.js';
import type { Undo } from '../../core/write/index.js';
import { answerLive, type DoOutcome, doCommands, type LiveOutcome, nowOf } from '../../services/index.js';
import type { Writable } from './database-access.js';
import type { OpenDatabase } from './tree-database.js';

/** A request of the live endpoint as the server hands it on. */
export interface LiveAsk {
  readonly method: string;
  readonly parts: readonly string[];
  readonly parameters: readonly (readonly [string, string])[];
  /** On whose behalf, as the header says it; null where there is none. */
  readonly as: string | null;
  readonly base: string;
  /** The body as text; empty for none. */
  readonly body: string;
  readonly ifMatch: string | null;
  readonly ifNoneMatch: string | null;
}

/** What came of a request that has to be kept. */
type Wrote = NonNullable<LiveAnswered['wrote']>;

/** How long what was opened to be written to stays open for the next who writes, in milliseconds. */
const KEPT_OPEN = 2000;

/** Answers requests of the live endpoint over the database that is open. */
export class LiveWork {
  #writable: { readonly of: OpenDatabase; readonly opened: Writable; timer: NodeJS.Timeout } | null = null;
  /** Those who write, one after the other, so that what a tag says of a resource holds until it is written. */
  #last: Promise<unknown> = Promise.resolve();

  /** @param written is told where rows have changed */
  constructor(private readonly written: () => void) {}

  async answer(open: OpenDatabase, ask: LiveAsk, signal: AbortSignal): Promise<LiveAnswered> {
    const named = actorIn(open.design, ask.as);
    if ('detail' in named) return refused([named]);
    const parsed = bodyIn(ask);
    if ('detail' in parsed) return refused([parsed]);
    const isReading = ask.method === 'GET' || ask.method === 'HEAD';
    return isReading
      ? this.#answered(open, ask, named, parsed.body, signal)
      : this.#inTurn(() => this.#answered(open, ask, named, parsed.body, signal));
  }

  async #answered(open: OpenDatabase, ask: LiveAsk, as: ActorName, body: unknown, signal: AbortSignal): Promise<LiveAnswered> {
    const { design, engine, sampleKeys, madeHere, kept } = open;
    const now = nowOf(design.model, madeHere);
    let wrote: Wrote | null = null;
    const write = async (text: string, who: ActorName): Promise<DoOutcome> => {
      const seed = randomUUID();
      const outcome = await this.#carriedOut(open, { text, seed, as: who, now, signal });
      if (!outcome.ok) return outcome;
      const undo: Undo | null = outcome.carried.undo;
      wrote = { text: who.kind === 'system' ? text : `as ${wordsOf(design, who)}\n${text}`, seed, undo };
      this.written();
      return outcome;
    };
    const live = { design, engine, sampleKeys, madeHere, now, write, ...(kept === undefined ? {} : { kept }) };
    const { method, parts, parameters, base, ifMatch, ifNoneMatch } = ask;
    const outcome = await answerLive(live, { method, parts, parameters, as, base, body, ifMatch, ifNoneMatch, signal });
    return toldOf(outcome, wrote);
  }

  async #carriedOut(
    open: OpenDatabase,
    given: {
      readonly text: string;
      readonly seed: string;
      readonly as: ActorName;
      readonly now: string;
      readonly signal: AbortSignal;
    },
  ): Promise<DoOutcome> {
    const { design, sampleKeys, madeHere, schemas } = open;
    const opened = await this.#open(open);
    if ('problem' in opened)
      return { ok: false, findings: [], problems: [opened.problem], log: [], spans: [], reached: 0, refusal: null };
    // What is made here is made anew without the commands that are taken back; of all else how it was is kept.
    const keeps = madeHere ? {} : { keeps: { schemas } };
    return doCommands(design, opened.engine, { ...given, sampleKeys, madeHere, schemas, rehearse: false, ...keeps });
  }

  async #inTurn<Result>(work: () => Promise<Result>): Promise<Result> {
    const before = this.#last;
    const done = before.then(work, work);
    this.#last = done.catch(() => null);
    return done;
  }

  async #open(of: OpenDatabase): Promise<Writable | { readonly problem: string }> {
    const there = this.#writable;
    if (there !== null && there.of === of) {
      there.timer.refresh();
      return there.opened;
    }
    await this.close();
    const opened = of.toWrite();
    if ('problem' in opened) return opened;
    this.#writable = { of, opened, timer: setTimeout(() => void this.#inTurn(() => this.close()), KEPT_OPEN) };
    return opened;
  }

  /** Lets go of what is open to be written to. */
  async close(): Promise<void> {
    const there = this.#writable;
    this.#writable = null;
    if (there === null) return;
    clearTimeout(there.timer);
    await there.opened.close();
  }
}

/** Whoever asks, as a header says it: a row of the actor’s entity, by its name in a text or by its key alone. */
function actorIn(design: Design, as: string | null): ActorName | LiveFault {
  if (as === null || as === 'nobody') return { kind: 'nobody' };
  const { model } = design;
  const entity = model.actor === null ? null : entityOf(model, model.actor);
  const named =
    entity === null || as === 'system' || as.includes('(')
      ? as
      : rowText({ entity: entity.name, keyType: entity.key.type, key: as });
  const { actor, findings } = design.actorOf(named);
  if (actor !== null) return actor;
  return fault(401, `Actor: ${findings[0]?.message ?? 'this is nobody who can be at work.'}`, { header: 'Actor' });
}

function wordsOf(design: Design, who: ActorName): string {
  if (who.kind !== 'row') return who.kind;
  const { row } = who;
  const name = row.type.kind === 'row' ? row.type.entity : '';
  return rowText({ entity: name, keyType: entityOf(design.model, name).key.type, key: row.kind === 'value' ? row.value : null });
}

function bodyIn({ body }: LiveAsk): { readonly body: unknown } | LiveFault {
  if (body === '') return { body: undefined };
  try {
    return { body: JSON.parse(body) as unknown };
  } catch {
    return fault(400, 'The body is no JSON.', { pointer: '' });
  }
}

function toldOf({ status, headers, body, work }: LiveOutcome, wrote: Wrote | null): LiveAnswered {
  return {
    status,
    headers: { ...headers },
    body,
    texts: [...work.texts],
    log: work.log.map(({ values, ...statement }) => ({ ...statement, values: [...values] })),
    wrote,
  };
}

/** A request that is not let in, or that no database answers. */
export function refused(faults: readonly LiveFault[]): LiveAnswered {
  const [first] = faults;
  return {
    status: first?.status ?? 500,
    headers: {},
    body: JSON.stringify(faultsDocument(faults)),
    texts: [],
    log: [],
    wrote: null,
  };
}
