import type { AnswerRow } from '../load/index.js';
import type { CommandRows } from '../model/index.js';
import { type Doing, noSuchRow, refuse } from './doing.js';
import { keyIn, kindIn, type RowAt } from './row-at.js';
import type { CommandWork } from './steps.js';

/** A row that was found. */
export interface FoundRow extends RowAt {
  readonly row: AnswerRow;
}

/** The rows that a command speaks of, each once, in their order. */
export function* findRows(doing: Doing, rows: CommandRows): CommandWork<readonly FoundRow[]> {
  const { model } = doing;
  const roots = rows.row === null ? yield* doing.ask(rows.query) : yield* doing.askOf(rows.row, rows.query);
  const ends = rows.path.reduce<readonly AnswerRow[]>((before, role) => before.flatMap((row) => behind(row, role)), roots);
  const found = new Map<string, FoundRow>();
  for (const row of ends) {
    const entity = kindIn(rows.entity, row);
    const key = keyIn(model, entity, row);
    found.set(`${entity} ${String(key)}`, { entity, key, row });
  }
  return Array.from(found.values());
}

/** The one row that a command speaks of. */
export function* findOne(doing: Doing, rows: CommandRows, what: string): CommandWork<FoundRow> {
  const found = yield* findRows(doing, rows);
  const [only] = found;
  if (only !== undefined && found.length === 1) return only;
  if (found.length === 0) return refuse(noSuchRow(what, rows.entity), 'row');
  return refuse(`${what}: ${found.length} rows of ${rows.entity} are meant, and one is needed. Say more of it.`);
}

function behind(row: AnswerRow, role: string): readonly AnswerRow[] {
  const there = row[role] ?? null;
  if (Array.isArray(there)) return there as AnswerRow[];
  return there === null ? [] : [there as AnswerRow];
}
