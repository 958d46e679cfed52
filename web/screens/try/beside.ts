import type { RunResult } from '../../../contract/index.js';
import { joinKey, type Wire } from '../../../core/values/index.js';
import type { EntityView } from '../../../core/view-models/index.js';
import type { SeenBeside } from '../rows/beside/rows.js';

type Answered = Extract<RunResult, { ok: true }>;
type Row = Readonly<Record<string, unknown>>;
type Told = Pick<EntityView, 'keyFields' | 'keyType' | 'shownField'>;

/**
 * Two answers to one query, row by row: those of the first in its order, and behind them those that the other alone has.
 *
 * @param of how rows are told apart and shown; null where the answers are lines of no rows
 */
export function beside(one: Answered, other: Answered, of: Told | null): readonly SeenBeside[] {
  const first = named(JSON.parse(one.text) as readonly Row[], of);
  const second = new Map(named(JSON.parse(other.text) as readonly Row[], of));
  const seen = first.map(([name, row]): SeenBeside => {
    const same = second.get(name);
    second.delete(name);
    const differs = same !== undefined && JSON.stringify(same) !== JSON.stringify(row);
    return { key: keyOf(row, of), shown: shownOf(row, of), one: true, other: same !== undefined, differs };
  });
  const rest = Array.from(second.values(), (row): SeenBeside => {
    return { key: keyOf(row, of), shown: shownOf(row, of), one: false, other: true, differs: false };
  });
  return [...seen, ...rest];
}

/** Rows with what tells each from the others: its key; of a line what it says, and the how manieth of those that say the same. */
function named(rows: readonly Row[], of: Told | null): readonly (readonly [string, Row])[] {
  if (of !== null) return rows.map((row) => [JSON.stringify(of.keyFields.map((name) => row[name])), row] as const);
  const before = new Map<string, number>();
  return rows.map((row) => {
    const said = JSON.stringify(row);
    const number = (before.get(said) ?? 0) + 1;
    before.set(said, number);
    return [`${number} ${said}`, row] as const;
  });
}

function keyOf(row: Row, of: Told | null): Wire {
  if (of === null) return null;
  const parts = of.keyFields.map((name) => (row[name] ?? null) as Wire);
  return parts.length === 1 ? (parts[0] ?? null) : joinKey(of.keyType, parts);
}

/** What a row is shown as; a line with all that it says. */
function shownOf(row: Row, of: Told | null): string {
  if (of === null) return Object.values(row).map(String).join(', ');
  const shown = of.shownField === null ? undefined : row[of.shownField];
  return shown === undefined || shown === null ? '' : String(shown);
}
