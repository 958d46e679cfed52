/** Model, and a database's own keys and triggers → what a delete reaches, before anything is touched. */
export { type ImpactInput, impactOf } from './impact.js';
export type { Impact, ImpactEffect, ImpactGroup, ImpactLook, ImpactOutcome } from './told.js';
