/** Schema × Schema → what becomes otherwise, what has to be asked, and the statements that do it. */

export { type AnswerFault, type Answers, NO_ANSWERS, readAnswers, writtenPlace } from './answers.js';
export {
  type Applied,
  type ApplyAnswer,
  type ApplyProgress,
  type ApplyRequest,
  type ApplyStep,
  type ApplyWork,
  applyPlan,
  differences,
} from './apply-plan.js';
export { applySequence, journalNow, leftOf, type Settling, settle, takenBack } from './apply-sequence.js';
export { type HandStep, handStepWords, type PlacedHandStep, stayingWords, writtenHandStep, wrongByHand } from './by-hand.js';
export type { Change, ChangeKind, ChangeSubject } from './changes.js';
export { formerNamesOf } from './former.js';
export {
  type AppliedPlan,
  HISTORY_COLUMNS,
  HISTORY_TABLE,
  type HistoryEntry,
  historyQuery,
  lettingGo,
} from './history.js';
export { JOURNAL_QUERY, JOURNAL_TABLE, readJournal } from './journal.js';
export type { SeenRow } from './look.js';
export { type NotedSql, notedSql, wrongNoted } from './noted-sql.js';
export type { Operation } from './operation.js';
export { type FormerNames, NO_FORMER_NAMES, type Paired, tableKey } from './pairs.js';
export {
  type ChangePlan,
  type PlannedChange,
  type PlanRequest,
  planChanges,
  type Verdict,
} from './plan-changes.js';
export type { PlanWork } from './plan-work.js';
export type { Question } from './questions.js';
export { commitsDefinitions, locksOf, scriptOfPlan } from './script.js';
export { formerNamesOfUndo, renamesIn } from './undo.js';
