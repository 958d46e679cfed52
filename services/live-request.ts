import type { Design } from '../core/design/index.js';
import { type Parameters, type Resources, resourcesOf } from '../core/live/index.js';
import type { LogEntry } from '../core/load/index.js';
import type { ActorName } from '../core/model/index.js';
import type { DoOutcome } from './do-commands.js';
import type { LookedAt } from './looked-at.js';

/** A request of the live endpoint, as far as it is none of HTTP any more. */
export interface LiveRequest {
  readonly method: string;
  /** The path behind the endpoint’s own, each part decoded. */
  readonly parts: readonly string[];
  readonly parameters: Parameters;
  /** On whose behalf. */
  readonly as: ActorName;
  /** The address of the endpoint, that links begin with. */
  readonly base: string;
  /** What its body says as JSON; undefined where it has none. */
  readonly body: unknown;
  /** The tags that a resource has to have, or is not to have (RFC 9110, 13.1); null where none is named. */
  readonly ifMatch: string | null;
  readonly ifNoneMatch: string | null;
  readonly signal: AbortSignal;
}

/** The answer to one. */
export interface LiveAnswer {
  readonly status: number;
  readonly headers: Readonly<Record<string, string>>;
  /** A document as JSON; empty for none. */
  readonly body: string;
}

/** What a request asked of the database, to be looked at by a person. */
export interface LiveWork {
  /** The query of the notation that read, and the commands that wrote. */
  readonly texts: string[];
  readonly log: (Pick<LogEntry, 'plain' | 'milliseconds' | 'rows'> & { readonly values: readonly string[] })[];
}

/** A database that is asked over HTTP. */
export interface LiveDatabase extends Omit<LookedAt, 'actor'> {
  readonly now: string;
  /** Carries commands out, and keeps what they do. */
  write(text: string, as: ActorName): Promise<DoOutcome>;
}

/** A request while it is answered. */
export interface Answering {
  readonly live: LiveDatabase;
  readonly resources: Resources;
  readonly request: LiveRequest;
  readonly work: LiveWork;
}

const known = new WeakMap<Design, Resources>();

/** The resources of a design; they are found once. */
export function resourcesIn(design: Design): Resources {
  const before = known.get(design) ?? resourcesOf(design.model);
  known.set(design, before);
  return before;
}
