import { entityOf, type Model, type NewRow, type Role, type Through } from '../model/index.js';
import type { Doing } from './doing.js';
import { cellsOfRole, Filling, fillDefaults, fillGiven, refuseLacking } from './fill.js';
import { findOne } from './find-rows.js';
import { linkRow } from './link.js';
import { fillPins } from './pins.js';
import { putRow } from './put-row.js';
import type { RowAt } from './row-at.js';
import type { CommandWork } from './steps.js';
import type { WrittenRow } from './told.js';

/** Makes a row, with its children behind it. Gives all rows that were made, the row itself first. */
export function* makeRow(doing: Doing, row: NewRow, through: Through | null): CommandWork<readonly WrittenRow[]> {
  const owner = through === null ? null : yield* findOne(doing, through.owner, `Making a ${row.entity}`);
  return yield* makeBehind(doing, row, through === null || owner === null ? null : { role: through.role, owner });
}

/** The row, and the role of it, behind which another is made. */
interface Behind {
  readonly role: Role;
  readonly owner: RowAt;
}

function* makeBehind(doing: Doing, row: NewRow, behind: Behind | null): CommandWork<readonly WrittenRow[]> {
  const filling = new Filling(row.entity);
  yield* fillGiven(doing, filling, row.values, null);
  if (behind !== null && behind.role.way.kind === 'child') fillOwner(doing, filling, behind);
  fillPins(doing, filling);
  fillDefaults(doing, filling);
  refuseLacking(doing, filling);
  const made = yield* putRow(doing, filling);
  const rows: WrittenRow[] = [made];
  // The owner holds the key of what is behind such a role, or a pair holds both.
  if (behind !== null && behind.role.way.kind !== 'child') rows.push(yield* linkRow(doing, behind.owner, behind.role, made, []));
  for (const { role, rows: children } of row.children)
    for (const child of children) rows.push(...(yield* makeBehind(doing, child, { role, owner: made })));
  return rows;
}

/** The key of the owner, as the row holds it. */
function fillOwner({ model }: Doing, filling: Filling, { role, owner }: Behind): void {
  const back = roleBack(model, filling.entity, role);
  filling.fill(back, 'owner', owner.key, cellsOfRole(model, role, owner));
}

/** What a row behind a role calls the row before it: its own role over the relation, or the relation where it has none. */
function roleBack(model: Model, entity: string, { relation, name, entity: from }: Role): string {
  const { roles, polymorphic } = entityOf(model, entity);
  const back = [...roles, ...polymorphic].find((one) => one.relation === relation && (one.name !== name || entity !== from));
  return back?.name ?? relation;
}
