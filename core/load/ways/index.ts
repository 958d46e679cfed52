import type { LoadWay } from '../way.js';
import { loadByBatch } from './batch.js';

/** The ways to load. A way is one file, and one line here. */
export const ways = { batch: loadByBatch } as const satisfies Readonly<Record<string, LoadWay>>;

export type WayName = keyof typeof ways;
