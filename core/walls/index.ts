/** Plan → Woven plan: the one pass that weaves walls into every access to an entity. */
export { type Actor, SYSTEM, type Woven, weave } from './woven.js';
