import type { AnswerRow } from '../load/index.js';
import { type Entity, entityOf, loadOf, type Role } from '../model/index.js';
import type { Wire } from '../values/index.js';
import { SYSTEM, type Walled } from '../walls/index.js';
import type { Cell } from './cell.js';
import { type Doing, noSuchRow, Refused, refuse } from './doing.js';
import { cellsOfRole } from './fill.js';
import { keyIn, kindIn, type RowAt } from './row-at.js';
import type { CommandWork } from './steps.js';
import type { WrittenCell } from './told.js';

let makeRows: (entity: string, keys: readonly Wire[]) => RowsToWrite;
let readKeys: (rows: RowsToWrite) => readonly Wire[];

/**
 * Rows of one entity that whoever is at work may change or delete. Only `inReach` makes some, and no others are changed or deleted:
 * a list of keys has not got what is read of them.
 */
class RowsInReach {
  readonly #keys: readonly Wire[];

  private constructor(
    readonly entity: string,
    keys: readonly Wire[],
  ) {
    this.#keys = keys;
  }

  static {
    makeRows = (entity, keys) => new RowsInReach(entity, keys);
    readKeys = (rows) => rows.#keys;
  }
}

export type RowsToWrite = RowsInReach;

/** The keys of rows that may be written. */
export function keysOf(rows: RowsToWrite): readonly Wire[] {
  return readKeys(rows);
}

/** So many rows are asked about at a time. */
const TOGETHER = 2000;

/** Those of some rows of an entity that whoever is at work may change or delete: all walls let them through, on read and on write. */
export function* inReach(doing: Doing, entity: string, keys: readonly Wire[]): CommandWork<RowsToWrite> {
  const { actor } = doing;
  if (actor === SYSTEM) return makeRows(entity, keys);
  const there = yield* reached(doing, entity, keys, actor);
  return makeRows(
    entity,
    keys.filter((key) => there.has(String(key))),
  );
}

/** One row to change or delete; where it is out of reach, it is as if it were not there. */
export function* oneInReach(doing: Doing, { entity, key }: RowAt, what: string): CommandWork<RowsToWrite> {
  const rows = yield* inReach(doing, entity, [key]);
  return keysOf(rows).length === 1 ? rows : refuse(noSuchRow(what, entity), 'row');
}

/** The texts of the keys of those rows that somebody may write. */
function* reached(doing: Doing, entity: string, keys: readonly Wire[], actor: Walled): CommandWork<ReadonlySet<string>> {
  const there = new Set<string>();
  for (let from = 0; from < keys.length; from += TOGETHER) {
    const some = keys.slice(from, from + TOGETHER);
    const rows = yield* doing.rowsByKey(entity, some, {}, { as: actor, wanted: 'write', titled: false });
    for (const key of rows.keys()) there.add(key);
  }
  return there;
}

/** How many of some rows of an entity whoever is at work may not write. */
export function* outOfReach(doing: Doing, entity: string, keys: readonly Wire[]): CommandWork<number> {
  return keys.length - keysOf(yield* inReach(doing, entity, keys)).length;
}

/** Notes a row that was put in or changed, so that it is looked after whether it is in reach. */
export function noteWritten({ actor, line, written }: Doing, row: RowAt): void {
  if (actor !== SYSTEM) written.note({ ...row, actor, line });
}

/** Refuses commands that leave a row out of reach of whoever it was written for: what they make or change stays theirs. */
export function* keepInReach(doing: Doing): CommandWork<void> {
  const groups = new Map<Walled, Map<string, { readonly key: Wire; readonly line: number }[]>>();
  for (const { actor, entity, key, line } of doing.written.take()) {
    const own = groups.get(actor) ?? new Map<string, { key: Wire; line: number }[]>();
    groups.set(actor, own.set(entity, [...(own.get(entity) ?? []), { key, line }]));
  }
  for (const [actor, entities] of groups)
    for (const [entity, rows] of entities) {
      const keys = rows.map(({ key }) => key);
      const there = yield* reached(doing, entity, keys, actor);
      const lost = rows.find(({ key }) => !there.has(String(key)));
      if (lost === undefined) continue;
      doing.line = lost.line;
      const wall = yield* wallAgainst(doing, { entity, key: lost.key }, actor);
      refuse(
        `${entity}(${String(lost.key)}) would be out of reach of whoever is at work${wall === null ? '' : `: wall ${wall} keeps it from them`}. What they write stays within their walls.`,
        'wall',
      );
    }
}

/** The wall that keeps a row from somebody; null where no wall by itself does. */
function* wallAgainst(doing: Doing, { entity, key }: RowAt, actor: Walled): CommandWork<string | null> {
  for (const wall of actor.walls) {
    const there = yield* reached(doing, entity, [key], { ...actor, walls: [wall] });
    if (there.size === 0) return wall.name;
  }
  return null;
}

/**
 * Refuses a row that was made to point at one which whoever is at work does not see, by a field that is a key: in the words for one
 * that is not there. A row behind a role was sought through the walls before.
 */
export function* refuseUnseen(
  doing: Doing,
  row: RowAt,
  cells: readonly Cell[],
  told: readonly WrittenCell[],
  table: string,
): CommandWork<void> {
  if (doing.actor === SYSTEM) return;
  const entity = entityOf(doing.model, row.entity);
  const byField = new Set(
    entity.fields.flatMap(({ name, column }) => (told.some((cell) => cell.name === name) ? [column.value] : [])),
  );
  const filled = new Set(cells.flatMap(({ column, value }) => (value === null ? [] : [column])));
  for (const branches of rolesHolding(entity)) {
    const columns = branches.flatMap((role) => cellsOfRole(doing.model, role, null).map(({ column }) => column));
    if (!columns.some((name) => byField.has(name)) || !columns.some((name) => filled.has(name))) continue;
    const loads = branches.map((role) => loadOf(role, { branch: branches.length > 1 }));
    const [whole] = (yield* doing.rowsByKey(row.entity, [row.key], { loads }, { as: SYSTEM })).values();
    const behind = (whole?.[branches[0]?.name ?? ''] ?? null) as AnswerRow | null;
    const targets = branches.map(({ target }) => target);
    const isSeen = behind === null ? !columns.every((name) => filled.has(name)) : yield* sees(doing, targets, behind);
    if (isSeen) continue;
    throw new Refused({ kind: 'constraint', broken: { kind: 'key', constraint: '', columns: [] }, table, cells: told });
  }
}

/** Whether whoever is at work sees a row that a role leads to. */
function* sees(doing: Doing, targets: readonly string[], behind: AnswerRow): CommandWork<boolean> {
  for (const target of targets) {
    const entity = kindIn(target, behind);
    const { key } = entityOf(doing.model, target);
    if (key.fields.some(({ name }) => behind[name] === undefined)) continue;
    const there = yield* doing.rowsByKey(entity, [keyIn(doing.model, entity, behind)]);
    if (there.size > 0) return true;
  }
  return false;
}

/** The roles whose key a row of an entity holds, each with its branches. */
function rolesHolding({ roles, polymorphic }: Entity): readonly (readonly Role[])[] {
  const isHeld = ({ way }: Role) => way.kind === 'key';
  return [...roles.filter(isHeld).map((role) => [role]), ...polymorphic.map(({ branches }) => branches.filter(isHeld))].filter(
    (branches) => branches.length > 0,
  );
}
