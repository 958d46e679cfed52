import { entityOf, type Role } from '../../model/index.js';
import { itemsOf, type SqlExpression } from '../../sql/index.js';
import type { ValueType } from '../../values/index.js';
import type { Compiling, SourceRow } from './compiling.js';

/** The types of the keys by which rows behind a role are sought, part by part, and of the key as a whole. */
export function keyTypesOf(
  { model }: Compiling,
  { way, target, entity }: Role,
): { parts: readonly ValueType[]; whole: ValueType } {
  const { key } = way.kind === 'key' ? entityOf(model, target) : entityOf(model, entity);
  const held = way.kind !== 'path' && way.kind !== 'key' ? (way.mark?.held ?? null) : null;
  // A column for keys of several types holds those of the owners as text.
  const typed = held !== null && (way.kind === 'child' || (way.kind === 'pivot' && way.marked === 'near'));
  return typed ? { parts: [held], whole: held } : { parts: key.fields.map(({ type }) => type), whole: key.type };
}

/** The key of an owner, as the rows behind a role, or the pairs in between, have it. */
export function ownerKey({ builder, alias }: SourceRow, role: Role): SqlExpression {
  if (role.way.kind === 'key') return builder.heldKey(role, alias);
  return role.way.kind === 'path' ? builder.key(alias) : builder.keyAsHeld(role, alias);
}

/** The same with a name for each part. */
export function named(expression: SqlExpression, stem: string): { readonly expression: SqlExpression; readonly as: string }[] {
  const items = itemsOf(expression);
  return items.map((item, index) => ({ expression: item, as: items.length === 1 ? stem : `${stem}_${index + 1}` }));
}
