/** What is doubtful in a design. A check is one file, and one line in this table. */

import type { Dialect } from '../dialects/index.js';
import type { Model } from '../model/index.js';
import type { Finding, Syntax } from '../notation/index.js';
import type { DesignCheck } from './check.js';
import { cascadeLoop } from './design/cascade-loop.js';
import { endlessText } from './design/endless-text.js';
import { givenUnkept } from './design/given-unkept.js';
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
import { secretField } from './design/secret-field.js';
import { triggeredCascade } from './design/triggered-cascade.js';
import { unindexedKey } from './design/unindexed-key.js';

export { whyOf } from './why.js';

const designChecks: readonly DesignCheck[] = [
  cascadeLoop,
  endlessText,
  givenUnkept,
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
  secretField,
  triggeredCascade,
  unindexedKey,
];

/** Everything that the checks find in a model. */
export function checkDesign(model: Model, dialect: Dialect, syntax: Syntax): Finding[] {
  return designChecks.flatMap((check) => check.find(model, dialect, syntax));
}
