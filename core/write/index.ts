/** Commands → statements of one transaction, and what came of each row. One file for each thing that a command does. */
export { carryOut } from './carry-out.js';
export type { CommandInputs, RowAt } from './doing.js';
export type { KeptTable, KeptTables, Undo } from './journal.js';
export { keptTables } from './kept-tables.js';
export { type RowsMeant, rowsMeant } from './rows-meant.js';
export type {
  AskStep,
  BrokenConstraint,
  CommandAnswer,
  CommandWork,
  WriteRefusal,
  WriteResult,
  WriteStep,
  WriteWork,
} from './steps.js';
export { type TakenBack, takeBack } from './take-back.js';
export type {
  Carried,
  CarriedLine,
  CommandLogEntry,
  CommandRefusal,
  FilledBy,
  RefusedFor,
  RowChange,
  WentAlong,
  WriteEntry,
  WrittenCell,
  WrittenRow,
} from './told.js';
