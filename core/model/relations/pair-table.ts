import type { RelationSyntax } from '../../notation/index.js';
import { type Resolution, wrong } from '../draft.js';
import { resolveField } from '../fields.js';
import type { Field, PivotRelation } from '../model.js';
import { refer } from '../references.js';
import { convention, ruleOf, type StoredLine, stated } from './form.js';

/** The table that holds the pairs of a relation: that of its line, else one of the relation's name. */
export function pairTable(relation: string, stored: StoredLine | null): PivotRelation['table'] {
  if (stored?.store.kind !== 'table')
    return { value: { schema: null, name: relation }, origin: convention('the name of the relation') };
  const { table } = stored.store;
  return { value: { schema: table.schema?.text ?? null, name: table.name.text }, origin: stated(table.span) };
}

/** What becomes of a pair when one of its rows is deleted; null, with a finding, for a rule that would leave half a pair. */
export function pairDeleteRule(resolution: Resolution, syntax: RelationSyntax): PivotRelation['onDelete'] | null {
  const rule = ruleOf(resolution, syntax, 'on delete', 'cascade', 'a pair goes with either of its rows');
  if (rule.value !== 'set null' && rule.value !== 'set default') return rule;
  return wrong(
    resolution,
    'set-null-required',
    rule.origin.kind === 'stated' ? rule.origin.span : syntax.head,
    `relation ${syntax.name.text}: a pair needs both of its rows, so neither key can be ${rule.value}. Use cascade, restrict or no action.`,
  );
}

/** The pivot's own fields, and those lines that say more of a column that holds a key. */
export function pivotFields(
  resolution: Resolution,
  stored: StoredLine | null,
  relation: string,
  keyColumns: readonly string[],
  numbered = stored?.repeats === true,
): { fields: Field[]; keyFields: Field[] } {
  const fields: Field[] = [];
  const keyFields: Field[] = [];
  for (const line of stored?.lines ?? []) {
    if (line.kind !== 'field') continue;
    const owner = `relation ${relation}`;
    refer(resolution.references, line.name, 'pivot field', relation, true);
    const field = resolveField(resolution, owner, line, null);
    if (field === null) continue;
    const taken = [...fields.map((other) => other.column.value), ...keyColumns, ...(numbered ? ['id'] : [])];
    if (keyColumns.includes(field.column.value)) {
      keyFields.push(field);
      continue;
    }
    if (taken.some((column) => column.toLowerCase() === field.column.value.toLowerCase())) {
      wrong(
        resolution,
        'column-clash',
        field.span,
        `relation ${relation}: its pivot has a column ${field.column.value} already. Rename the field.`,
      );
    } else if (field.key) {
      wrong(
        resolution,
        'pivot-key',
        field.span,
        `relation ${relation}: a pivot’s key is its pair${stored?.repeats === true ? ', or here an id of its own' : ''}. Remove key.`,
      );
    } else fields.push(field);
  }
  return { fields, keyFields };
}
