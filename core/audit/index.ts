/** The proof that walls hold: what each actor may reach, found out a second time, and the ways that are tried against it. */

export { closingLine, ownLine } from './closing.js';
export { columnsInTables } from './columns.js';
export { type Difference, differenceOf } from './difference.js';
export { type Audited, askedOf, both, isNotTrue, type ReachedFor, reachedWhere } from './reached.js';
export { hasLeaks, isWhole, verdictOf, waysTried } from './verdict.js';
export {
  isRow,
  keyRoles,
  namedRow,
  type RoleSite,
  type RowSite,
  WAYS_OF_ROLES,
  WAYS_OF_ROWS,
  type Way,
  type Witness,
} from './ways/index.js';
export { type Attempt, attemptsOn, changeable, type WriteSite } from './ways/writes.js';
export {
  type ColumnsOfTables,
  type HeldKeys,
  partsWithinReach,
  type Reachable,
  type ReachableRows,
  withinReach,
} from './within-reach.js';
