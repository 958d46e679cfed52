import type { Wire } from '../../values/index.js';
import type { AnswerRow } from '../answer.js';
import type { LoadPlace } from '../compile/index.js';
import { HIDDEN } from './rows.js';

/** Rows that have arrived, with all columns that they came with. */
export interface Level {
  readonly rows: readonly AnswerRow[];
  readonly columns: ReadonlyMap<string, readonly Wire[]>;
}

/** The rows that have the role at all: where it is one of a kind, those of that kind. */
export function ownersOf(all: Level, { owners }: LoadPlace): Level {
  if (owners === null || !owners.ofKind) return all;
  const marks = all.columns.get(owners.as) ?? [];
  const has = (_: unknown, row: number) => owners.values.includes(String(marks[row]));
  const columns = Array.from(all.columns, ([name, cells]) => [name, cells.filter(has)] as const);
  return { rows: all.rows.filter(has), columns: new Map(columns) };
}

/**
 * Puts rows below their owners, in the order in which they have come.
 *
 * @param ownerOf the place of the owner of each row, among the rows of the owners
 */
export function putBelow(owners: Level, place: LoadPlace, rows: readonly AnswerRow[], ownerOf: readonly number[]): void {
  const { role, branch, many } = place;
  const having = place.owners?.ofKind === true ? place.owners : null;
  const marks = having === null ? [] : (owners.columns.get(having.as) ?? []);
  const has = (index: number) => having === null || having.values.includes(String(marks[index]));
  owners.rows.forEach((owner, index) => {
    if (!has(index)) return;
    const others = branch ? owner[role] : undefined;
    owner[role] = many ? (Array.isArray(others) ? [...others] : []) : (others ?? null);
  });
  for (const [at, row] of rows.entries()) {
    const owner = owners.rows[ownerOf[at] ?? -1];
    const kin = owner?.[role];
    if (owner === undefined) continue;
    if (Array.isArray(kin)) kin.push(row);
    else if (kin === null) owner[role] = row;
  }
  markHidden(owners, place);
}

/** Says of owners whose row behind the role may not be seen that they have one. */
export function markHidden(owners: Level, { role, hiddenBy }: Pick<LoadPlace, 'role' | 'hiddenBy'>): void {
  if (hiddenBy === null) return;
  const hidden = owners.columns.get(hiddenBy) ?? [];
  owners.rows.forEach((owner, index) => {
    if (hidden[index] === true) owner[role] = HIDDEN;
  });
}
