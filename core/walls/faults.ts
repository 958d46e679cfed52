import type { Wall, WallLine } from '../model/index.js';
import type { Access, QueryPlan } from '../plan/index.js';
import type { Actor } from './actor.js';

/** What is broken in the weaver: it takes other walls for standing, or asks other lines of an access than it has to. */
export interface WeaverFault {
  readonly name: string;
  /** The actor that it weaves for. */
  readonly actor?: (actor: Actor) => Actor;
  /** The walls that it lays on a plan: those that stand, of all that hold for the actor. */
  readonly standing?: (standing: readonly Wall[], all: readonly Wall[], plan: QueryPlan) => readonly Wall[];
  readonly asked?: (lines: readonly WallLine[], access: Access, plan: QueryPlan, wanted: 'read' | 'write') => readonly WallLine[];
  /** It says of no role that the row behind it is hidden. */
  readonly hidesNothing?: true;
}

let planted: WeaverFault | null = null;

/** The fault that a test has planted; none in any program. */
export function plantedFault(): WeaverFault | null {
  return planted;
}

/** Weaves with a fault until the work is done: for tests, which have to see that it is noticed. A lint rule keeps all others off. */
export async function withFault<Result>(fault: WeaverFault, work: () => Promise<Result>): Promise<Result> {
  planted = fault;
  try {
    return await work();
  } finally {
    planted = null;
  }
}
