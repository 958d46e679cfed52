/** The ways to load held against each other: which to take, and where answers differ. */
export { adviceOn, timeAt, type WayCost } from './advice.js';
export { firstDifference } from './difference.js';
