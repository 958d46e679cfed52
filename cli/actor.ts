import type { Design } from '../core/design/index.js';
import type { ActorName } from '../core/model/index.js';

/** On whose behalf something is done, as it is given. @throws with what is wrong with it */
export function actorGiven(design: Design, given: string): ActorName {
  const { actor, findings } = design.actorOf(given);
  if (actor === null) throw new Error(`--as ${given}: ${findings[0]?.message ?? 'say who, as in Player(3).'}`);
  return actor;
}
