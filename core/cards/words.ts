import { snakeCase } from '../model/index.js';
import type { DeleteRule } from '../notation/index.js';

/** The effect of a delete rule on the rows that point at the deleted one, in words. */
export const THEN: Readonly<Record<DeleteRule, (things: string) => string>> = {
  cascade: (things) => `its ${things} go with it`,
  restrict: (things) => `refused while it has ${things}`,
  'set null': (things) => `its ${things} stay, and their key is emptied`,
  'set default': (things) => `its ${things} stay, and their key falls back to its default`,
  'no action': (things) => `refused while it has ${things}, looked at when the statement ends`,
};

/** The name of an entity, as words. */
export function words(entity: string): string {
  return snakeCase(entity).replaceAll('_', ' ');
}
