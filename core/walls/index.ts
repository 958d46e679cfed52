/** Plan → Woven plan: the one pass that weaves walls into every access to an entity. */
export { type Actor, nobody, SYSTEM, somebody, type Walled } from './actor.js';
export { type Weave, type Woven, weave } from './woven.js';
