import type { AnswerRow } from '../load/index.js';
import type { Command, CommandRows, NamedCommand, NewRow, WrittenValue } from '../model/index.js';
import type { Wire } from '../values/index.js';
import { kindIn, type RowAt } from './row-at.js';
import type { CommandWork } from './steps.js';

/** Fewer commands are quicker without a look ahead. */
const FEWEST = 20;
/** So many rows are looked for at a time. */
const TOGETHER = 2000;

/** Where rows are found by their keys. */
interface ByKey {
  rowsByKey(entity: string, keys: readonly Wire[]): CommandWork<ReadonlyMap<string, AnswerRow>>;
}

/** Rows that commands name by their keys, found many at once before the first command is carried out. */
export class RowsAhead {
  private readonly rows = new Map<string, RowAt>();

  /** Looks for the rows that values of commands name; of a few commands nothing is looked for. */
  *look(doing: ByKey, commands: readonly NamedCommand[]): CommandWork<void> {
    if (commands.length < FEWEST) return;
    const wanted = new Map<string, Map<string, Wire>>();
    for (const { command } of commands)
      for (const rows of rowsIn(command)) {
        const key = keyNamed(rows);
        if (key === null) continue;
        const own = wanted.get(rows.query.entity) ?? new Map<string, Wire>();
        own.set(String(key), key);
        wanted.set(rows.query.entity, own);
      }
    for (const [entity, named] of wanted) {
      const keys = Array.from(named.values());
      for (let from = 0; from < keys.length; from += TOGETHER)
        for (const [key, row] of yield* doing.rowsByKey(entity, keys.slice(from, from + TOGETHER)))
          this.rows.set(`${entity} ${key}`, { entity: kindIn(entity, row), key: named.get(key) ?? null });
    }
  }

  /** The row that is named, where it was found ahead; one that was not may have been made since. */
  of(rows: CommandRows): RowAt | null {
    if (this.rows.size === 0) return null;
    const key = keyNamed(rows);
    return key === null ? null : (this.rows.get(`${rows.query.entity} ${String(key)}`) ?? null);
  }

  /** Rows were deleted: what was found may be gone. */
  forget(): void {
    this.rows.clear();
  }
}

/** The key by which one row is named, and nothing more is said of it. */
function keyNamed({ row, query, path }: CommandRows): Wire {
  return row?.kind === 'value' && path.length === 0 && query.where.length === 0 && query.loads.length === 0 ? row.value : null;
}

/** The rows that a command sets roles to. */
function rowsIn(command: Command): readonly CommandRows[] {
  switch (command.kind) {
    case 'create':
      return ofNew(command.row);
    case 'find or create':
    case 'create or update':
      return [...ofValues(command.match), ...ofNew(command.row)];
    case 'update':
      return ofValues(command.values);
    case 'link':
    case 'unlink':
      return ofValues(command.fields);
    case 'delete':
      return [];
  }
}

function ofNew({ values, children }: NewRow): readonly CommandRows[] {
  return [...ofValues(values), ...children.flatMap(({ rows }) => rows.flatMap(ofNew))];
}

function ofValues(values: readonly WrittenValue[]): readonly CommandRows[] {
  return values.flatMap((value) => (value.kind === 'role' && value.rows !== null ? [value.rows] : []));
}
