import type { AnswerRow } from '../load/index.js';
import {
  type Command,
  type CommandRows,
  entityOf,
  lineage,
  type Model,
  type NamedCommand,
  type NewRow,
  type WrittenValue,
} from '../model/index.js';
import { joinKey, type Wire } from '../values/index.js';
import { kindIn, type RowAt } from './row-at.js';
import type { CommandWork } from './steps.js';

/** Fewer commands are quicker without a look ahead. */
const FEWEST = 20;
/** So many rows are looked for at a time. */
const TOGETHER = 2000;

/** Where rows are found by their keys. */
interface ByKey {
  readonly model: Model;
  rowsByKey(entity: string, keys: readonly Wire[]): CommandWork<ReadonlyMap<string, AnswerRow>>;
}

/** Rows that commands name by their keys, found many at once before the first command is carried out. */
export class RowsAhead {
  private readonly rows = new Map<string, RowAt>();
  /** The rows that commands make under keys of their own, and the line of each. */
  private readonly coming = new Map<string, { readonly row: RowAt; readonly line: number }>();

  private readonly done = new Set<number>();

  /** Looks for the rows that values of commands name; of a few commands nothing is looked for. */
  *look(doing: ByKey, commands: readonly NamedCommand[]): CommandWork<void> {
    for (const [line, { command }] of commands.entries()) {
      const row = command.kind === 'create' ? keyed(doing.model, command.row) : null;
      if (row === null) continue;
      for (const { name } of lineage(doing.model, row.entity)) this.coming.set(`${name} ${String(row.key)}`, { row, line });
    }
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

  /** Notes that a line is carried out. */
  noteDone(line: number): void {
    this.done.add(line);
  }

  /** The row that is named, where a command of another line is still to make it: two rows that have to point at each other are made so. */
  toCome(rows: CommandRows, line: number): RowAt | null {
    return this.comingFor(rows, line)?.row ?? null;
  }

  /** The other lines that are still to make rows which a command sets roles to. */
  linesToCome(command: Command, line: number): readonly number[] {
    return rowsIn(command).flatMap((rows) => this.comingFor(rows, line)?.line ?? []);
  }

  private comingFor(rows: CommandRows, line: number) {
    const key = keyNamed(rows);
    const coming = key === null ? undefined : this.coming.get(`${rows.query.entity} ${String(key)}`);
    return coming === undefined || coming.line === line || this.done.has(coming.line) ? null : coming;
  }

  /** Rows were deleted: what was found may be gone. */
  forget(): void {
    this.rows.clear();
  }
}

/** The row that is made under a key which the command gives; null where the key is to come of something else. */
function keyed(model: Model, { entity, values }: NewRow): RowAt | null {
  const { key } = entityOf(model, entity);
  const parts = key.fields.map(({ name }): Wire => {
    const given = values.find((value) => value.kind === 'field' && value.field.name === name);
    return given?.kind === 'field' && given.expression.kind === 'value' ? given.expression.value : null;
  });
  return parts.includes(null) ? null : { entity, key: joinKey(key.type, parts) };
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
