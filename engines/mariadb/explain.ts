import type { PlanStep } from '../../core/load/index.js';
import type { Connection, Positional } from '../server/connection.js';

/** A table of fewer rows is read whole rather than through an index. */
const SMALL_ROWS = 1000;

/** How MariaDB will answer a statement, in words (MariaDB, EXPLAIN). A step that reads every row of a table is marked. */
export async function explain(connection: Connection, { sql, values }: Positional): Promise<PlanStep[]> {
  const rows = await connection.query(`explain ${sql}`, values);
  return rows.flatMap((row) => {
    // Columns: id, select type, table, type, possible keys, key, key length, ref, rows, extra.
    const [, , table, type, , key, , reference, count, extra] = row.map((value) => (value === null ? null : String(value)));
    const step = inWords(table ?? null, type ?? null, key ?? null, reference ?? null, count ?? null, extra ?? '');
    return step === null ? [] : [{ depth: 0, ...step }, ...notes(extra ?? '')];
  });
}

function inWords(
  table: string | null,
  type: string | null,
  key: string | null,
  reference: string | null,
  count: string | null,
  extra: string,
): Pick<PlanStep, 'text' | 'scan'> | null {
  if (table === null) return extra === '' ? null : { text: extra.toLowerCase(), scan: false };
  const about = count === null ? '' : `, about ${Number(count).toLocaleString('en')} rows`;
  const plain = (text: string) => ({ text, scan: false });
  if (/Table function/i.test(extra)) return plain('goes through the keys that are bound');
  if (/^<(derived|subquery|union)/.test(table)) return plain(`reads what the inner select found${about}`);
  switch (type) {
    case 'ALL': {
      const small = Number(count ?? 0) < SMALL_ROWS;
      return { text: `reads every row of ${table}${about}${small ? '; it is small' : ''}`, scan: !small };
    }
    case 'index':
      return { text: `reads every entry of index ${key} of ${table}${about}`, scan: true };
    case 'range':
      return plain(`finds rows of ${table} by ranges of index ${key}${about}`);
    case 'const':
    case 'system':
      return plain(`finds the one row of ${table} by ${key ?? 'its key'}`);
    case 'eq_ref':
      return plain(`finds one row of ${table} for each by ${key} (${reference})`);
    case 'ref':
    case 'ref_or_null':
      return plain(`finds rows of ${table} by index ${key} (${reference})${about}`);
    default:
      return plain(`reads ${table}${type === null ? '' : ` (${type})`}${about}`);
  }
}

function notes(extra: string): PlanStep[] {
  const note = (text: string): PlanStep => ({ depth: 1, text, scan: false });
  return [
    ...(/filesort/.test(extra) ? [note('sorts what it found')] : []),
    ...(/temporary/.test(extra) ? [note('keeps it in a table of its own meanwhile')] : []),
    ...(/Using index(?! condition)/.test(extra) ? [note('needs nothing but the index')] : []),
  ];
}
