/** Commands → statements of one transaction, and what came of each row. One file for each thing that a command does. */
export { carryOut } from './carry-out.js';
export type { Cell } from './cell.js';
export { deleteRoots } from './delete-roots.js';
export { type CommandInputs, Doing, Refused } from './doing.js';
export { cellsOfRole, defaultOf, Filling, fillChanged, isNumbered, lackedBy, rulesOf } from './fill.js';
export { Journal, type KeptTable, type KeptTables, type Undo } from './journal.js';
export { keptTables } from './kept-tables.js';
export { keepPins } from './pins.js';
export { type FilledColumn, type PutOutcome, RowsIn } from './put-rows.js';
export { inReach, keepInReach, oneInReach } from './reach.js';
export { keyIn, kindIn, type RowAt } from './row-at.js';
export { type RowsMeant, rowsMeant } from './rows-meant.js';
export { RulesOfOthers, type Touch } from './rules-of-others.js';
export { guarded, Savepoint } from './savepoint.js';
export type {
  AskStep,
  BrokenConstraint,
  CommandAnswer,
  CommandStep,
  CommandWork,
  EachResult,
  EachStep,
  WriteRefusal,
  WriteResult,
  WriteStep,
  WriteWork,
} from './steps.js';
export { updateRows } from './stored-row.js';
export { type TakenBack, takeBack } from './take-back.js';
export type {
  Carried,
  CarriedLine,
  CommandLogEntry,
  CommandRefusal,
  FilledBy,
  Lacked,
  RefusedFor,
  RowChange,
  WentAlong,
  WriteEntry,
  WrittenCell,
  WrittenRow,
} from './told.js';
