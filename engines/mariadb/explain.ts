import { type PlanStep, planStep } from '../../core/load/index.js';
import type { Connection, Positional } from '../server/connection.js';

/** A table of fewer rows is read whole rather than through an index. */
const SMALL_ROWS = 1000;

/** A line of MariaDB's explain; a plan that was measured has more columns than one that was not. */
interface Line {
  readonly id: string | null;
  readonly table: string | null;
  readonly type: string | null;
  readonly key: string | null;
  readonly reference: string | null;
  readonly expected: number | null;
  readonly found: number | null;
  readonly extra: string;
}

/**
 * How MariaDB will answer a statement, in words (MariaDB, EXPLAIN); measured, how it did, with the rows of each step (ANALYZE
 * statement). What stands below another select is one level deeper.
 */
export async function explain(connection: Connection, { sql, values }: Positional, measured: boolean): Promise<PlanStep[]> {
  const rows = await connection.query(`${measured ? 'analyze' : 'explain'} ${sql}`, values);
  const lines = rows.map((row) => lineOf(row, measured));
  const [first] = lines;
  return lines.flatMap((line) => {
    const step = inWords(line);
    if (step === null) return [];
    const depth = line.id === first?.id ? 0 : 1;
    const { expected, found } = line;
    return [planStep(depth, step.text, { mark: step.mark, expected, found }), ...notes(line.extra, depth + 1)];
  });
}

/** Columns: id, select type, table, type, possible keys, key, key length, ref, rows, (measured: r_rows, filtered, r_filtered,) extra. */
function lineOf(row: readonly unknown[], measured: boolean): Line {
  const text = (at: number) => (row[at] === null || row[at] === undefined ? null : String(row[at]));
  const number = (at: number) => (text(at) === null ? null : Number(text(at)));
  return {
    id: text(0),
    table: text(2),
    type: text(3),
    key: text(5),
    reference: text(7),
    expected: number(8),
    found: measured ? number(9) : null,
    extra: text(measured ? 12 : 9) ?? '',
  };
}

function inWords({ table, type, key, reference, expected, extra }: Line): Pick<PlanStep, 'text' | 'mark'> | null {
  if (table === null) return extra === '' ? null : { text: extra.toLowerCase(), mark: null };
  const plain = (text: string) => ({ text, mark: null });
  if (/Table function/i.test(extra)) return plain('goes through the keys that are bound');
  if (/^<(derived|subquery|union)/.test(table)) return plain('reads what the inner select found');
  switch (type) {
    case 'ALL': {
      const small = (expected ?? 0) < SMALL_ROWS;
      return { text: `reads every row of ${table}${small ? '; it is small' : ''}`, mark: small ? null : 'full scan' };
    }
    case 'index':
      // A table's rows stand in the index of its key.
      return key === 'PRIMARY'
        ? { text: `reads every row of ${table}, in the order of its key`, mark: 'full scan' }
        : { text: `reads every entry of index ${key} of ${table}`, mark: 'full scan' };
    case 'range':
      return plain(`finds rows of ${table} by ranges of index ${key}`);
    case 'const':
    case 'system':
      return plain(`finds the one row of ${table} by ${key ?? 'its key'}`);
    case 'eq_ref':
      return plain(`finds one row of ${table} for each by ${key} (${reference})`);
    case 'ref':
    case 'ref_or_null':
      return plain(`finds rows of ${table} by index ${key} (${reference})`);
    default:
      return plain(`reads ${table}${type === null ? '' : ` (${type})`}`);
  }
}

function notes(extra: string, depth: number): PlanStep[] {
  return [
    ...(/filesort/.test(extra) ? [planStep(depth, 'sorts what it found', { mark: 'sort' })] : []),
    ...(/temporary/.test(extra)
      ? [planStep(depth, 'keeps it in a table of its own meanwhile', { mark: 'temporary table' })]
      : []),
    ...(/Using index(?! condition)/.test(extra) ? [planStep(depth, 'needs nothing but the index')] : []),
  ];
}
