import type { Field, Model } from './model.js';

/** Does the text state how the column of a field is declared, so that its values stand as that type has them? */
export function isDeclared(model: Model, { physical, type }: Field): boolean {
  return physical.declaration !== null || (type.kind === 'decimal' && model.physical.types.has('decimal(p, s)'));
}
