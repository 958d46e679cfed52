/** The use cases, one file each, for the server and the command line. */

export { answerLive, type LiveOutcome } from './answer-live.js';
export type { Hole } from './audit-hole.js';
export { type HeldByDatabase, lacksScript, neverTriedIn } from './audit-session.js';
export type { Tells } from './audit-tells.js';
export {
  type AuditOptions,
  type AuditState,
  auditWalls,
  type Leak,
  NEVER_TRIED,
} from './audit-walls.js';
export { type BroughtIn, bringIn, bringInScript, removeAt, type Step, titleOf } from './bring-in.js';
export { bringInScriptEmbedded, bringInScriptOn, bringInServer } from './bring-in-server.js';
export {
  type AnswerRow,
  entityCounts,
  keyOf,
  MOST_KEYS,
  type RowOrder,
  type RowsOutcome,
  type RowsRequest,
  roleCounts,
  rowOrder,
  rowWindow,
} from './browse-rows.js';
export { carryOutAgain, type KeptCommands, type KeptLines } from './carry-out-again.js';
export { checkExpectations, type ExpectationRun, type ExpectedOf, type HeldLine, isHeld } from './check-expectations.js';
export { checkReads, type ReadsChecked, type ReadsOutcome } from './check-reads.js';
export { checkRows, type RowExample, type RowFinding, type RowsChecked } from './check-rows.js';
export { nowOf } from './clock.js';
export { compareKinds, type KindsAsk, type KindsWay } from './compare-kinds.js';
export { copyForRehearsal, type RehearsalCopy } from './copy-for-rehearsal.js';
export { type CopiedSample, copySample } from './copy-sample.js';
export { type DoOutcome, type DoRequest, doCommands } from './do-commands.js';
export { type Drift, driftOf, planPuttingBack } from './drift.js';
export { followDatabase } from './follow-database.js';
export { type ForetellRequest, type Foretold, foretellDelete } from './foretell-delete.js';
export { savedAsText } from './found-query.js';
export { wordsForHistory, wordsFromHistory } from './history-words.js';
export { type LeftHalfDone, leftHalfDone, leftWords, settleHalfDone } from './left-half-done.js';
export { letGo } from './let-go.js';
export { examplesOf } from './live-examples.js';
export { type LiveDatabase, type LiveRequest, resourcesIn } from './live-request.js';
export type { LookedAt } from './looked-at.js';
export { fillDatabase, type MadeDatabase, type MakeOptions, type MakeProgress, makeDatabase } from './make-database.js';
export { type MeasuredWay, measureWays, WAYS, type WaysMeasured, type WaysOutcome } from './measure-ways.js';
export { notAppliedWords } from './not-applied.js';
export { PASSWORD_VARIABLE, PasswordKeeper, withAuthority } from './password.js';
export {
  applying,
  byHandWords,
  historyOf,
  ownedNow,
  type PlanDatabase,
  type PlannedDatabase,
  planDatabase,
  planUndo,
  scriptThatNotes,
} from './plan-database.js';
export { profileRelation, type RelationProfile } from './profile-relation.js';
export { type LineRefused, type LinesOutcome, type PutLinesIn, putLinesIn } from './put-lines-in.js';
export { type Reach, type ReachActor, reachOf, type Unwalled } from './reach.js';
export { type Rehearsal, type RehearsedRow, type RehearsedTable, rehearsePlan, type ScriptBack } from './rehearse-plan.js';
export { rowChoices } from './row-choices.js';
export { type RowsBeside, rowsBeside } from './rows-beside.js';
export { type PlainAnswer, runPlain } from './run-plain.js';
export { type RunAnswer, type RunOutcome, type RunRequest, runQuery } from './run-query.js';
export { setAside } from './set-aside.js';
export { takeBackCommands } from './take-back.js';
export { type TakenOut, type TakeRowsOut, takeRowsOut } from './take-rows-out.js';
export { wallsAsScript } from './walls-as-script.js';
export { warnOfQuery } from './warn-of-query.js';
export { type LineHeld, type WallHeld, type WhySeen, whySeen } from './why-seen.js';
export { type OpenScratch, type ScratchDatabase, wishedSchema } from './wished-schema.js';
export { actorAt } from './working-as.js';
