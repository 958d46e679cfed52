/** What is wrong or doubtful, in a design and in the rows. A check is one file, and one line in one of these tables. */

import type { Dialect } from '../dialects/index.js';
import type { Model } from '../model/index.js';
import type { Finding, Syntax } from '../notation/index.js';
import type { SchemaOf } from '../schema/index.js';
import { AUDIT_REASONS } from './audits.js';
import type { DesignCheck } from './check.js';
import { cascadeLoop } from './design/cascade-loop.js';
import { endlessText } from './design/endless-text.js';
import { givenUnkept } from './design/given-unkept.js';
import { inexactCheck } from './design/inexact-check.js';
import { looseKey } from './design/loose-key.js';
import { lostRulesOfKinds } from './design/lost-rules.js';
import { nameOnEngine } from './design/name-on-engine.js';
import { noKeeper } from './design/no-keeper.js';
import { numberCode } from './design/number-code.js';
import { oneOfSeveral } from './design/one-of-several.js';
import { otherDialect } from './design/other-dialect.js';
import { pairEntity } from './design/pair-entity.js';
import { requiredLoop } from './design/required-loop.js';
import { sameRelation } from './design/same-relation.js';
import { searchedText } from './design/searched-text.js';
import { secretField } from './design/secret-field.js';
import { sessionSettings } from './design/session-settings.js';
import { triggeredCascade } from './design/triggered-cascade.js';
import { unindexedKey } from './design/unindexed-key.js';
import { unindexedWall } from './design/unindexed-wall.js';
import { meantBy, unlessMeant } from './meant.js';
import type { RowCheck, RowCheckContext, RowQuestion } from './row-check.js';
import { brokenCheck } from './rows/broken-check.js';
import { brokenRule } from './rows/broken-rule.js';
import { doubled } from './rows/doubled.js';
import { emptyRequired } from './rows/empty-required.js';
import { halfKey } from './rows/half-key.js';
import { jsonKind } from './rows/json-kind.js';
import { kindRow } from './rows/kind-row.js';
import { lostKey } from './rows/lost-key.js';
import { notUnique } from './rows/not-unique.js';
import { pairOrder } from './rows/pair-order.js';
import { unfitValue } from './rows/unfit-value.js';
import { unkeptPromise } from './rows/unkept-promise.js';
import { unknownMark } from './rows/unknown-mark.js';
import { unlistedValue } from './rows/unlisted-value.js';

export { AUDIT_REASONS, type AuditCode } from './audits.js';
export { briefGroupsOf, type FindingGroup, groupsOf } from './groups.js';
export { meantBy } from './meant.js';
export type { RowQuestion } from './row-check.js';
export { whyOf } from './why.js';

const designChecks: readonly DesignCheck[] = [
  cascadeLoop,
  endlessText,
  givenUnkept,
  inexactCheck,
  looseKey,
  lostRulesOfKinds,
  nameOnEngine,
  noKeeper,
  numberCode,
  oneOfSeveral,
  otherDialect,
  pairEntity,
  requiredLoop,
  sameRelation,
  searchedText,
  secretField,
  sessionSettings,
  triggeredCascade,
  unindexedKey,
  unindexedWall,
];

/**
 * Everything that is told of a text: what reading it found, and what the checks find in the model, without what is meant so.
 *
 * @param found by reading the text
 */
export function findingsOf(found: readonly Finding[], model: Model, dialect: Dialect, syntax: Syntax, made: SchemaOf): Finding[] {
  const all = [...found, ...designChecks.flatMap((check) => check.find(model, dialect, syntax, made))];
  return unlessMeant(model, syntax.text, all, ROW_CODES).sort((a, b) => a.span.start - b.span.start);
}

const rowChecks: readonly RowCheck[] = [
  brokenRule,
  brokenCheck,
  unkeptPromise,
  emptyRequired,
  lostKey,
  halfKey,
  unknownMark,
  unlistedValue,
  unfitValue,
  kindRow,
  jsonKind,
  pairOrder,
  notUnique,
  doubled,
];

/** The codes of what rows alone tell: checks of them, and audits of walls. */
const ROW_CODES: ReadonlySet<string> = new Set([...rowChecks.map(({ code }) => code), ...Object.keys(AUDIT_REASONS)]);

/** Everything that is asked of the rows of a database; what is meant so is not. */
export function rowQuestions(model: Model, context: RowCheckContext): RowQuestion[] {
  return rowChecks
    .flatMap((check) => check.ask(model, context))
    .filter(({ code, span }) => meantBy(model, code, span) === undefined);
}
