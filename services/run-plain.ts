import type { LogEntry } from '../core/load/index.js';
import type { Engine, Outcome, PlainRows } from '../engines/index.js';

/** What a statement of a person's own answered: lines with a value for each column. */
export interface PlainAnswer {
  /** The lines as one JSON array; a name that several columns have is followed by a number. */
  readonly text: string;
  readonly rows: number;
  readonly cut: boolean;
  readonly entry: LogEntry;
}

/** As much as an answer may hold, in characters. */
const MOST_SIZE = 16_000_000;

/**
 * Runs one statement that only reads, in the SQL of the database. It goes by no wall and no model, so it is for somebody who sees
 * all rows.
 *
 * @param most how many rows it may bring
 */
export async function runPlain(
  engine: Engine,
  sql: string,
  { rows: most, signal }: { readonly rows: number; readonly signal?: AbortSignal },
): Promise<Outcome<PlainAnswer>> {
  const read = await engine.readPlain(sql, { rows: most, size: MOST_SIZE }, signal === undefined ? {} : { signal });
  if (!read.ok) return read;
  const { columns, rows, cut, milliseconds, steps } = read.value;
  const names = toldApart(columns);
  const lines = rows.map((row) => Object.fromEntries(names.map((name, index) => [name, row[index] ?? null])));
  const text = JSON.stringify(lines);
  const entry = { ...entryOf(sql, read.value), milliseconds, steps };
  return { ok: true, value: { text, rows: lines.length, cut, entry } };
}

function entryOf(sql: string, { rows, columns }: PlainRows): Omit<LogEntry, 'milliseconds' | 'steps'> {
  const bytes = rows.reduce((sum, row) => sum + row.reduce<number>((size, value) => size + String(value ?? '').length, 0), 0);
  const written = { path: '', plain: sql, sent: sql, byColumns: false, parameters: [], span: null };
  return { ...written, times: 1, rows: rows.length, cells: rows.length * columns.length, bytes };
}

/** Names of columns, each once: a statement may give several the same. */
function toldApart(columns: readonly string[]): string[] {
  const taken = new Set<string>();
  return columns.map((column) => {
    let name = column;
    for (let number = 2; taken.has(name); number++) name = `${column}_${number}`;
    taken.add(name);
    return name;
  });
}
