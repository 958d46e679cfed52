import { type ImpactInput, type ImpactOutcome, impactOf } from '../impact/index.js';
import type { Run } from './run.js';

/** What a delete reaches: all its statements see one state of the database. */
export const impact: Run<ImpactInput, ImpactOutcome> = { pace: 'whole', compute: impactOf };
