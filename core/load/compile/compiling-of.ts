import type { Dialect } from '../../dialects/index.js';
import type { Model } from '../../model/index.js';
import type { LoadWay } from '../../notation/index.js';
import type { Access, AccessId, PlannedExpression } from '../../plan/index.js';
import type { Weave } from '../../walls/index.js';
import type { Compiling } from './compiling.js';
import { compiled } from './expressions.js';
import { firstKey } from './steps.js';
import { wallOn } from './wall-on.js';

/** The target of a compilation: the dialect, and how the database stands to the text. */
export interface CompileOptions {
  readonly model: Model;
  readonly dialect: Dialect;
  /** The database was made here: it keeps every foreign key and check; else a key may point at nothing. */
  readonly madeHere: boolean;
  /** The relations of which the database keeps itself that every row has its other row, where not all do. */
  readonly kept?: ReadonlySet<string>;
  /** The way by which everything is loaded, whatever the text states; left out, each load has its own. */
  readonly way?: LoadWay;
}

const NONE_KEPT: ReadonlySet<string> = new Set();

const NO_WALLS: readonly PlannedExpression[] = [];

/**
 * The context that all statements of one plan share, before any is compiled.
 *
 * @param weave the walls on its accesses; null where whoever reads sees all rows
 */
export function compilingOf(
  { model, dialect, madeHere, kept = NONE_KEPT, way }: CompileOptions,
  accesses: readonly Access[],
  weave: Weave | null,
): Compiling {
  const { values, correlates, limitsEach, print } = dialect;
  const byId = new Map([...accesses, ...(weave?.accesses ?? [])].map((access) => [access.id, access]));
  const wallsOn = (id: AccessId): readonly PlannedExpression[] => {
    if (weave === null) return NO_WALLS;
    const walls = weave.walls.get(id);
    if (walls === undefined) throw new Error(`nobody has looked for the walls on access ${id}`);
    return walls;
  };
  const access = (id: AccessId): Access => {
    const found = byId.get(id);
    if (found === undefined) throw new Error(`the plan has no access ${id}`);
    return found;
  };
  const compiling: Compiling = {
    model,
    values,
    print,
    way: way ?? null,
    madeHere,
    correlates,
    limitsEach,
    accesses: byId,
    bindings: new Map(),
    conditionsOf: ({ id, conditions }) => [...wallsOn(id), ...conditions],
    behind: (id, role) => weave?.behind(id, role) ?? null,
    sqlOf: (row, expression) => compiled(compiling, row, expression),
    site: {
      model,
      values,
      madeHere,
      kept,
      access,
      isWalled: (id) => wallsOn(id).length > 0,
      wallOn: (builder, row, alias) => wallOn(compiling, wallsOn(row.id), { builder, access: row, alias }),
      firstKey: (builder, alias, { over: { role, from, steps } }) =>
        firstKey(compiling, { builder, access: access(from), alias }, role, steps),
    },
  };
  return compiling;
}
