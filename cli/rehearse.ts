import { join } from 'node:path';
import type { Applied, ApplyRequest } from '../core/changes/index.js';
import { readDesign } from '../core/design/index.js';
import { fileEngine } from '../engines/index.js';
import { copyForRehearsal, notAppliedWords, type Rehearsal, type RehearsalCopy, rehearsePlan } from '../services/index.js';
import { fileOf } from './place.js';
import { type PlanAtHand, scratchFor, told } from './with-plan.js';

/** So many rows of a server are rehearsed on where nothing else is said, as on the page. */
const MOST_REHEARSED = 1_000_000;

/** How a plan is rehearsed. */
export interface RehearseFlags {
  readonly timeout: number;
  /** So many rows of a server are rehearsed on; of a larger database a part that keeps its relations. */
  readonly rows?: number;
}

/** Carries a plan out on a copy of the rows. @throws with words for a person */
export async function rehearsed(
  at: PlanAtHand,
  request: ApplyRequest,
  flags: RehearseFlags,
): Promise<Rehearsal & Pick<RehearsalCopy, 'part'>> {
  const { engine, planned, text } = at;
  const design = readDesign(text, engine.dialect);
  const { scratch, part } = await copyOf(at, design, flags);
  const rests = planned.undoes === null ? { design } : {};
  const isFile = fileOf(at.database) !== null;
  const schemas = isFile ? request.schemas : null;
  const rehearsal = told(await rehearsePlan(engine, scratch, planned, { ...request, schemas }, { ...rests, retold: !isFile }));
  if (rehearsal.applied.kind !== 'applied') throw new Error(whyNot(rehearsal.applied));
  return { ...rehearsal, part };
}

async function copyOf(
  { engine, planned, database, folder }: PlanAtHand,
  design: ReturnType<typeof readDesign>,
  { timeout, rows = MOST_REHEARSED }: RehearseFlags,
): Promise<RehearsalCopy> {
  const file = fileOf(database);
  if (file === null)
    return told(await copyForRehearsal(engine, planned.seen, scratchFor(database, folder), { design, most: rows }));
  const path = join(folder, 'rehearsal.db');
  told(await fileEngine.copy(file, path, { label: file }));
  const copy = fileEngine.open({ path, mode: 'write', milliseconds: timeout * 1000, label: 'The copy' });
  return { scratch: { engine: copy, remove: () => copy.close() }, part: null };
}

/** Why a plan was not carried out, with the command that goes on. */
export function whyNot(applied: Exclude<Applied, { kind: 'applied' }>): string {
  const ways = 'Say which: family-tree settle DATABASE finish, or family-tree settle DATABASE take-back.';
  return applied.kind === 'left' ? `${notAppliedWords(applied)} ${ways}` : notAppliedWords(applied);
}
