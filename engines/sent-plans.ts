import type { Ask, SentPlan } from './protocol.js';

/** As many plans as a process keeps of those that it was sent. */
const MOST = 200;

/** A question as it is sent: with the place of its plan, where the process keeps that. */
export interface SentAsk {
  readonly ask: Ask;
  readonly plan?: SentPlan;
}

/**
 * The plans that one process was sent. A plan is large beside the values that it is run with, and the same for each run: a process
 * that has it is told where it lies, and prints its statements once. Both sides fill the same places in turn.
 */
export class SentPlans {
  readonly #slots = new Map<object, number>();
  readonly #plans: (object | undefined)[] = [];
  #next = 0;

  sent(ask: Ask): SentAsk {
    const compiled = compiledIn(ask);
    if (compiled === null) return { ask };
    const without = withCompiled(ask, null);
    const known = this.#slots.get(compiled);
    if (known !== undefined) return { ask: without, plan: { slot: known } };
    const slot = this.#next;
    this.#next = (slot + 1) % MOST;
    const before = this.#plans[slot];
    if (before !== undefined) this.#slots.delete(before);
    this.#plans[slot] = compiled;
    this.#slots.set(compiled, slot);
    return { ask: without, plan: { slot, compiled } };
  }
}

const kept: unknown[] = [];

/** The question that was sent to this process, with its plan in it again. */
export function askSent({ ask, plan }: SentAsk): Ask {
  if (plan === undefined) return ask;
  if (plan.compiled !== undefined) kept[plan.slot] = plan.compiled;
  return withCompiled(ask, kept[plan.slot]);
}

/** The plan of a run that has one; null of any other question. */
function compiledIn(ask: Ask): object | null {
  if (ask.kind !== 'run') return null;
  const { input } = ask.sent;
  const prepared = typeof input === 'object' && input !== null && 'prepared' in input ? input.prepared : null;
  const compiled = typeof prepared === 'object' && prepared !== null && 'compiled' in prepared ? prepared.compiled : null;
  return typeof compiled === 'object' ? compiled : null;
}

function withCompiled(ask: Ask, compiled: unknown): Ask {
  if (ask.kind !== 'run') return ask;
  const input = ask.sent.input as { readonly prepared: object };
  return { ...ask, sent: { ...ask.sent, input: { ...input, prepared: { ...input.prepared, compiled } } as never } };
}
