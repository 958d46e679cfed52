import type { Entity } from '../../model/index.js';
import type { ValueType } from '../../values/index.js';
import type { Output } from './compiled.js';

/** The outputs of a select that gives an entity's key: a column for each part, and last the key itself. */
export function keyOutputs(
  { key }: Entity,
  as: string,
): { readonly names: readonly string[]; readonly outputs: readonly Output[] } {
  const [only, ...more] = key.fields;
  if (only !== undefined && more.length === 0) return singleKey(only.type, as);
  const names = key.fields.map((_, index) => `${as}_${index + 1}`);
  const columns = key.fields.map(
    ({ type }, index): Output => ({ as: names[index] ?? '', type, name: null, pivot: null, parts: null, kinds: null }),
  );
  return { names, outputs: [...columns, { as, type: key.type, name: as, pivot: null, parts: names, kinds: null }] };
}

/** The outputs of a select that gives a key of one column. */
export function singleKey(
  type: ValueType,
  as: string,
): { readonly names: readonly string[]; readonly outputs: readonly Output[] } {
  return { names: [as], outputs: [{ as, type, name: null, pivot: null, parts: null, kinds: null }] };
}
