import type { Wire } from '../../values/index.js';
import type { AnswerRow } from '../answer.js';
import type { CompiledLoad } from '../compile/index.js';
import type { Computation } from '../statement.js';
import type { Asking } from './asking.js';
import { NOTHING, type Split } from './join.js';
import { compared, distinct, isKey, keysAsBound, keysIn, ownerKeysOf } from './keys.js';
import { type Level, markHidden } from './level.js';

/** By batch: one statement for the rows of all owners, with their keys as one list; none where there are no owners. */
export function* loadByBatch(asking: Asking, owners: Level, load: CompiledLoad): Computation<Split> {
  const ownerKeys = ownerKeysOf(owners, load);
  const keys = load.ownersDistinct ? ownerKeys.filter(isKey) : distinct(ownerKeys);
  const bound = asking.values.bindKeys(load.keyType, keysAsBound(load, keys));
  const children =
    keys.length === 0 ? NOTHING : yield* asking.ask(load, { keys: bound }, { keys, path: load.path, span: load.span });
  const stitch = compared(load, keysIn(children, load.stitchColumns, load.keyType));
  if (load.many) stitchMany(owners.rows, ownerKeys, children.rows, stitch, load);
  else stitchOne(owners.rows, ownerKeys, children.rows, stitch, load);
  markHidden(owners, load);
  return children;
}

/** Children arrive owner by owner, so each owner's are one run; only the runs are looked up. */
function stitchMany(
  owners: readonly AnswerRow[],
  ownerKeys: readonly Wire[],
  children: readonly AnswerRow[],
  stitch: readonly Wire[],
  { role, branch }: CompiledLoad,
): void {
  const runs = new Map<Wire, AnswerRow[]>();
  let from = 0;
  for (let at = 1; at <= children.length; at++) {
    if (at < children.length && stitch[at] === stitch[from]) continue;
    if (children.length > 0) runs.set(stitch[from] ?? null, children.slice(from, at));
    from = at;
  }
  owners.forEach((owner, index) => {
    const own = runs.get(ownerKeys[index] ?? null) ?? [];
    const others = branch ? owner[role] : undefined;
    owner[role] = Array.isArray(others) ? [...others, ...own] : own;
  });
}

function stitchOne(
  owners: readonly AnswerRow[],
  ownerKeys: readonly Wire[],
  children: readonly AnswerRow[],
  stitch: readonly Wire[],
  { role, branch }: CompiledLoad,
): void {
  const byKey = new Map<Wire, AnswerRow>();
  for (let at = 0; at < children.length; at++) {
    const child = children[at];
    const key = stitch[at] ?? null;
    // Where a database lets in a second one, the first stands, as in every way.
    if (child !== undefined && !byKey.has(key)) byKey.set(key, child);
  }
  owners.forEach((owner, index) => {
    const other = branch ? (owner[role] ?? null) : null;
    owner[role] = byKey.get(ownerKeys[index] ?? null) ?? other;
  });
}
