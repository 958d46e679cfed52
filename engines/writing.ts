import type { WriteStep } from '../core/write/index.js';

export type { WriteRefusal as Refusal, WriteResult, WriteStep, WriteWork } from '../core/write/index.js';

/** A statement without values. */
export const define = (sql: string): WriteStep => ({ kind: 'define', sql, values: [] });
