import type { CompiledLoad } from '../compile/index.js';
import type { Computation } from '../statement.js';
import type { Asking } from './asking.js';
import { type Split, together } from './join.js';
import { isKey, keysAsBound, ownerKeysOf } from './keys.js';
import { type Level, putBelow } from './level.js';

/** By row: a statement for the rows of each owner, as a page asks that reads what was not loaded. It is there to be compared with. */
export function* loadByRow(asking: Asking, owners: Level, load: CompiledLoad): Computation<Split> {
  const splits: Split[] = [];
  for (const [index, key] of ownerKeysOf(owners, load).entries()) {
    const [held] = isKey(key) ? keysAsBound(load, [key]) : [];
    if (held === undefined) continue;
    const bound = asking.values.bind(load.keyType, held);
    const found = yield* asking.ask(load, { key: bound }, { keys: null, path: load.path, span: load.span });
    splits.push({ ...found, ownerOf: found.rows.map(() => index) });
  }
  const all = together(load, splits);
  putBelow(owners, load, all.rows, all.ownerOf);
  return all;
}
