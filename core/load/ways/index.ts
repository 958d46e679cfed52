import type { Dialect } from '../../dialects/index.js';
import type { LoadAnswer, LoadRequest } from '../answer.js';
import type { CompiledLoad, CompiledRows } from '../compile/index.js';
import type { Computation } from '../statement.js';
import { Asking } from './asking.js';
import { loadByBatch } from './batch.js';
import type { Split } from './join.js';
import { loadByJson } from './json.js';
import { ownersOf, putBelow } from './level.js';
import { loadByRow } from './row.js';

/** Runs a prepared plan: its rows, with what is loaded below them, each load in the way that it was compiled for. */
export function* loadRows(dialect: Dialect, request: LoadRequest): Computation<LoadAnswer> {
  const asking = new Asking(dialect, request);
  const { compiled } = request.prepared;
  const root = yield* asking.ask(compiled, {}, { keys: null, path: '', span: null });
  yield* below(asking, compiled, root);
  return { rows: root.rows, log: asking.log, cuts: asking.cuts };
}

/** What is loaded below rows, whatever its way. */
function* below(asking: Asking, level: CompiledRows, split: Split): Computation<void> {
  for (const { join, split: joined } of split.below) {
    putBelow(split, join, joined.rows, joined.ownerOf);
    yield* below(asking, join, joined);
  }
  for (const nest of level.nested) yield* below(asking, nest, loadByJson(asking.dialect, split, nest));
  for (const load of level.loads) yield* below(asking, load, yield* children(asking, split, load));
}

function* children(asking: Asking, split: Split, load: CompiledLoad): Computation<Split> {
  const owners = ownersOf(split, load);
  return yield* load.seeks === 'keys' ? loadByBatch(asking, owners, load) : loadByRow(asking, owners, load);
}
