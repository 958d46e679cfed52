import type { Dialect } from '../dialects/index.js';
import { type Computation, fetch, type Prepared } from '../load/index.js';
import { parseWire, type ValueType, type Wire } from '../values/index.js';
import type { Run } from './run.js';

export interface CountsInput {
  /** A plan whose loads count. */
  readonly prepared: Prepared;
  /** The keys of the owners. */
  readonly keys: readonly Wire[];
  readonly keyType: ValueType;
  /** The name under which an owner bears its key, where owners may be out of reach: they are looked up first. Null where all are there. */
  readonly keyName: string | null;
}

/** For each load, by its role, how many rows each owner has; one that is missing has none. */
export type Counts = Readonly<Record<string, Readonly<Record<string, number>>>>;

/** How many rows some owners know over each of their to-many roles. */
export const counts: Run<CountsInput, Counts> = {
  pace: 'whole',
  *compute(dialect, { prepared, keys: asked, keyType, keyName }) {
    const { compiled, parameters, madeHere } = prepared;
    const keys = keyName === null ? asked : yield* ownersThere(dialect, prepared, { keys: asked, keyType, keyName });
    const found: Record<string, Record<string, number>> = {};
    const options = { madeHere, rowLimit: keys.length };
    for (const { role, branch, entity, select: query, outputs, keyType: heldType } of compiled.loads) {
      const held = heldType.kind === keyType.kind ? keys : keys.map((key) => asHeld(heldType, key));
      const all = { ...parameters, keys: dialect.values.bindKeys(heldType, held) };
      const name = branch ? `${role} as ${entity}` : role;
      const { cells } = keys.length === 0 ? NOTHING : yield* fetch(dialect, { query, outputs, parameters: all, options });
      const [numbers = []] = cells;
      const owners = cells.at(-1) ?? [];
      found[name] = Object.fromEntries(owners.map((owner, row) => [String(owner), Number(numbers[row])]));
    }
    return found;
  },
};

const NOTHING = { cells: [] };

/** The keys of the owners that are found by them. */
function* ownersThere(
  dialect: Dialect,
  { compiled, parameters, madeHere }: Prepared,
  { keys, keyType, keyName }: { readonly keys: readonly Wire[]; readonly keyType: ValueType; readonly keyName: string },
): Computation<readonly Wire[]> {
  const { select: query, outputs } = compiled;
  const all = { ...parameters, keys: dialect.values.bindKeys(keyType, keys) };
  const { cells } = yield* fetch(dialect, { query, outputs, parameters: all, options: { madeHere, rowLimit: keys.length } });
  return cells[outputs.findIndex(({ name }) => name === keyName)] ?? [];
}

/** A key as another column holds it, which has keys of several types. */
function asHeld(type: ValueType, key: Wire): Wire {
  const parsed = parseWire(type, String(key));
  return parsed.ok ? parsed.value : null;
}
