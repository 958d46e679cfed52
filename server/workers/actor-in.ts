import type { Design } from '../../core/design/index.js';
import type { ActorName } from '../../core/model/index.js';

/** On whose behalf, as a page asks for it: nothing where it asks for none. */
export function actorIn(design: Design, as: string | undefined): { readonly as?: ActorName } | { readonly problem: string } {
  if (as === undefined) return {};
  const { actor, findings } = design.actorOf(as);
  return actor === null ? { problem: `${as}: ${findings[0]?.message ?? 'this is nobody who can be at work.'}` } : { as: actor };
}
