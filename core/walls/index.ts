/** Plan → Woven plan: the one pass that weaves walls into every access to an entity. */
export { type Actor, type AskedOfActor, askedOfActor, nobody, SYSTEM, type Walled } from './actor.js';
export { type WallTold, wallsTold } from './told.js';
export { type Weave, type Woven, type WovenFor, weave } from './woven.js';
