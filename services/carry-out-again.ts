import type { Design } from '../core/design/index.js';
import type { Wire } from '../core/values/index.js';
import type { Engine } from '../engines/index.js';
import { nowOf } from './clock.js';
import { doCommands } from './do-commands.js';

/** Commands that were carried out before, on a database that has been made anew since. */
export interface KeptCommands {
  readonly id: number;
  readonly text: string;
  readonly seed: string;
}

/** Why commands could not be carried out again, by their numbers; those that could are missing. */
export type Unfit = ReadonlyMap<number, string>;

/** Carries commands out once more, in their order, on a database that was made from the text. Those that no longer fit are left out. */
export async function carryOutAgain(
  design: Design,
  engine: Engine,
  kept: readonly KeptCommands[],
  sampleKeys: Readonly<Record<string, Wire>>,
  signal?: AbortSignal,
): Promise<Unfit> {
  const unfit = new Map<number, string>();
  const now = nowOf(design.model, true);
  for (const { id, text, seed } of kept) {
    if (signal?.aborted === true) break;
    const done = await doCommands(design, engine, { text, sampleKeys, madeHere: true, now, seed, rehearse: false });
    if (done.ok) continue;
    const errors = done.findings.filter(({ weight }) => weight === 'error').map(({ message }) => message);
    unfit.set(id, [...errors, ...done.problems.map((problem) => problem.replace(/ Nothing was written\.$/, ''))].join(' '));
  }
  return unfit;
}
