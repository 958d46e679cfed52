/** What is doubtful in a design. A check is one file, and one line in this table. */

import type { Dialect } from '../dialects/index.js';
import type { Model } from '../model/index.js';
import type { Finding } from '../notation/index.js';
import type { DesignCheck } from './check.js';
import { looseKey } from './design/loose-key.js';
import { numberCode } from './design/number-code.js';
import { otherDialect } from './design/other-dialect.js';
import { requiredLoop } from './design/required-loop.js';

const designChecks: readonly DesignCheck[] = [requiredLoop, looseKey, numberCode, otherDialect];

/** Everything that the checks find in a model. */
export function checkDesign(model: Model, dialect: Dialect): Finding[] {
  return designChecks.flatMap((check) => check.find(model, dialect));
}
