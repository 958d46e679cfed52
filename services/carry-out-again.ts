import type { Design } from '../core/design/index.js';
import type { Wire } from '../core/values/index.js';
import type { Engine } from '../engines/index.js';
import { nowOf } from './clock.js';
import { doCommands, placedWords } from './do-commands.js';
import { type PutLinesIn, putLinesIn } from './put-lines-in.js';

/** Commands that were carried out before, on a database that has been made anew since. */
export interface KeptCommands {
  readonly id: number;
  readonly text: string;
  readonly seed: string;
  /** The lines of a file that they are instead, or why those cannot be put in any more; null for commands. */
  readonly lines?: KeptLines | { readonly problem: string } | null;
}

/** Lines of a file that were put in before. */
export type KeptLines = Pick<PutLinesIn, 'mapping' | 'file' | 'goodOnes' | 'as'>;

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
  for (const { id, text, seed, lines = null } of kept) {
    if (signal?.aborted === true) break;
    if (lines !== null) {
      const why = 'problem' in lines ? lines.problem : await putInAgain(design, engine, { ...lines, sampleKeys, now, seed });
      if (why !== null) unfit.set(id, why);
      continue;
    }
    const done = await doCommands(design, engine, { text, sampleKeys, madeHere: true, now, seed, rehearse: false });
    if (done.ok) continue;
    const errors = done.findings.filter(({ weight }) => weight === 'error').map(({ message }) => message);
    const why = done.refusal === null ? done.problems : [placedWords(done.refusal, done.spans)];
    unfit.set(id, [...errors, ...why].join(' '));
  }
  return unfit;
}

/** Puts lines in once more; why they could not be, or null. Lines that were left out before may be left out again. */
async function putInAgain(
  design: Design,
  engine: Engine,
  lines: KeptLines & Pick<PutLinesIn, 'sampleKeys' | 'now' | 'seed'>,
): Promise<string | null> {
  const done = await putLinesIn(design, engine, { ...lines, madeHere: true, rehearse: false });
  if (!done.ok) return done.problems.join(' ');
  const [first] = done.refused;
  return done.report.kept || first === undefined ? null : `Line ${first.line}: ${first.message}`;
}
