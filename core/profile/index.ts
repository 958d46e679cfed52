/** What the rows say about a relation: how many children a parent has, which parents have none, which keys point nowhere. */

export { type HeldKey, heldKeys } from './held-keys.js';
export { bucketsOf, type Histogram } from './histogram.js';
export { type ProfileAsk, type ProfilePlan, profilePlans } from './plans.js';
