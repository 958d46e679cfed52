import type { Sentence } from '../../notation/index.js';
import { typeName } from '../../values/index.js';
import { type EntityDraft, type Resolution, wrong } from '../draft.js';
import type { Role } from '../expression.js';
import { resolveField, sameKeyType } from '../fields.js';
import { conventionalColumns } from '../keys.js';
import type { Field, PivotColumn, PivotEnd, PivotRelation } from '../model.js';
import { singular, snakeCase } from '../names.js';
import { refer } from '../references.js';
import { resolveEntityPivot } from './entity-pivot.js';
import { convention, type Ends, foreignKeysOf, noteOf, type RelationForm, ruleOf, type StoredLine, stated } from './form.js';

/** Many-to-many: a table of pairs, with fields of its own where the text gives it some. */
export const pivotForm: RelationForm = {
  fits: ({ first, second, stored }) =>
    !first.bothWays &&
    first.knows === 'many' &&
    (second?.knows === 'many' || (second === null && stored?.store.kind !== 'column' && stored?.store.kind !== 'composite')),
  resolve: (resolution, ends) => resolvePivot(resolution, ends, 'many-to-many'),
};

/** Symmetric many-to-many: each pair is kept once, whichever side stated it. */
export const symmetricForm: RelationForm = {
  fits: ({ first }) => first.bothWays,
  resolve(resolution, ends) {
    const { first, second, subject, target, syntax } = ends;
    if (second !== null || subject !== target || first.knows !== 'many') {
      return wrong(
        resolution,
        'both-ways',
        first.span,
        `relation ${syntax.name.text}: both ways is for a single sentence in which an entity knows many of itself.`,
      );
    }
    return resolvePivot(resolution, ends, 'symmetric');
  },
};

function resolvePivot(
  resolution: Resolution,
  ends: Ends,
  form: PivotRelation['form'],
): { relation: PivotRelation; roles: readonly Role[] } | null {
  const { syntax, first, second, subject, target, stored } = ends;
  const name = syntax.name.text;
  const label = `relation ${name}`;
  if (stored?.store.kind === 'entity' && form !== 'symmetric') return resolveEntityPivot(resolution, ends, stored);
  if (stored === null && second === null && form !== 'symmetric') {
    return wrong(
      resolution,
      'store-missing',
      first.span,
      `${label}: ${subject.name} knows many, and nothing says where that is stored. Add the sentence of ${target.name}, or “stored in table ${name}”.`,
    );
  }
  if (stored !== null && stored.store.kind !== 'table') {
    return wrong(
      resolution,
      'store-form',
      stored.span,
      stored.store.kind === 'entity'
        ? `${label}: a pair that is known both ways stands once, the lesser key first, and the two roles of ${stored.store.entity.text} each mean something else. Write “stored in table ${name}”, with the fields of the pair below.`
        : `${label} is many-to-many: it is stored in a table of pairs, as in “stored in table ${name}”.`,
    );
  }
  const store = stored?.store.kind === 'table' ? stored.store : null;
  const table: PivotRelation['table'] =
    store === null
      ? { value: { schema: null, name }, origin: convention('the name of the relation') }
      : { value: { schema: store.table.schema?.text ?? null, name: store.table.name.text }, origin: stated(store.table.span) };

  const columns = store?.columns ?? null;
  const [left, right] = defaultColumns(ends, form);
  const chosen = columns?.map((column): PivotColumn[] => {
    const names = column.kind === 'column' ? [column.name] : column.kind === 'composite' ? column.names : [];
    return names.map((columnName) => ({ value: columnName.text, origin: stated(columnName.span), field: null }));
  });
  const near: PivotEnd = { entity: subject.name, columns: chosen?.[0] ?? left, role: first.role.text };
  const far: PivotEnd = {
    entity: target.name,
    columns: chosen?.[1] ?? right,
    role: form === 'symmetric' ? first.role.text : (second?.role.text ?? null),
  };
  for (const [end, { key, name: entity }] of [
    [near, subject],
    [far, target],
  ] as const) {
    if (end.columns.length === key.fields.length) continue;
    return wrong(
      resolution,
      'key-parts',
      stored?.span ?? syntax.head,
      `${label}: ${entity}’s key has ${key.fields.length === 1 ? 'one part' : `${key.fields.length} parts`} (${key.fields.map((field) => field.name).join(', ')}), so the pivot holds it in as many columns: “(${key.fields.length === 1 ? `${snakeCase(entity)}_id` : `(${conventionalColumns(snakeCase(entity), key).join(', ')})`}, …)”.`,
    );
  }
  const all = [...near.columns, ...far.columns].map((column) => column.value.toLowerCase());
  const farAlone = far.columns.filter(
    (column) => !near.columns.some((other) => other.value.toLowerCase() === column.value.toLowerCase()),
  );
  if (farAlone.length === 0) {
    return wrong(
      resolution,
      'pivot-columns',
      stored?.span ?? syntax.name.span,
      `${label}: both columns of ${table.value.name} would be ${all[0]}. Name them: “stored in table ${table.value.name} (a_id, b_id)”.`,
    );
  }
  const onDelete = ruleOf(resolution, syntax, 'on delete', 'cascade', 'a pair goes with either of its rows');
  if (onDelete.value === 'set null' || onDelete.value === 'set default') {
    const span = onDelete.origin.kind === 'stated' ? onDelete.origin.span : syntax.head;
    return wrong(
      resolution,
      'set-null-required',
      span,
      `${label}: a pair needs both of its rows, so neither key can be ${onDelete.value}. Use cascade, restrict or no action.`,
    );
  }
  const keyColumns = [near, far].flatMap((end) => end.columns.map((column) => column.value));
  const { fields, keyFields } = pivotFields(resolution, stored, name, keyColumns);
  const declared = (end: PivotEnd, { name: owner, key }: EntityDraft): PivotEnd => ({
    ...end,
    columns: end.columns.map((column, index) => {
      const field = keyFields.find((candidate) => candidate.column.value === column.value);
      const part = key.fields[index];
      if (field === undefined || part === undefined || sameKeyType(field.type, part.type))
        return { ...column, field: field ?? null };
      wrong(
        resolution,
        'key-type-mismatch',
        field.span,
        `${label}: ${owner}’s key is ${typeName(part.type)}, but ${table.value.name}.${column.value} is ${typeName(field.type)}. Change the field to ${typeName(part.type)}, or remove the line.`,
      );
      return column;
    }),
  });
  const relation: PivotRelation = {
    kind: 'pivot',
    form,
    name,
    entity: null,
    given: stored?.given ?? false,
    table,
    ends: [declared(near, subject), declared(far, target)],
    fields,
    uniques: [],
    indexes: [],
    checks: [],
    keptInTable: [],
    repeats: stored?.repeats ?? false,
    withoutKey: stored?.withoutKey ?? false,
    onDelete,
    onUpdate: ruleOf(resolution, syntax, 'on update', 'no action', 'a key is seldom changed'),
    ...foreignKeysOf(resolution, syntax),
    note: noteOf(syntax),
    span: syntax.span,
    head: syntax.head,
  };
  return { relation, roles: rolesOf(relation, first, second, subject, target) };
}

function defaultColumns({ first, second, subject, target }: Ends, form: PivotRelation['form']): [PivotColumn[], PivotColumn[]] {
  const named = (stem: string, entity: EntityDraft, rule: string): PivotColumn[] =>
    conventionalColumns(stem, entity.key).map((value) => ({ value, origin: convention(rule), field: null }));
  const rest = ({ key }: EntityDraft) => (key.fields.length === 1 ? '_id' : 'the part of the key');
  const ofEntity = (entity: EntityDraft) => named(snakeCase(entity.name), entity, `the entity’s name and ${rest(entity)}`);
  const ofRole = (sentence: Sentence, whose: string) => {
    const entity = sentence === first ? target : subject;
    const stem = singular(sentence.role.text);
    return named(stem, entity, `the singular of ${whose} role, ${sentence.role.text}, and ${rest(entity)}`);
  };
  if (form === 'symmetric') return [ofEntity(subject), ofRole(first, 'the')];
  if (subject !== target || second === null)
    return subject === target ? [ofEntity(subject), ofRole(first, 'the')] : [ofEntity(subject), ofEntity(target)];
  return [ofRole(second, 'the other sentence’s'), ofRole(first, 'the other sentence’s')];
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

function rolesOf(
  relation: PivotRelation,
  first: Sentence,
  second: Sentence | null,
  subject: EntityDraft,
  target: EntityDraft,
): Role[] {
  const [near, far] = relation.ends.map((end) => end.columns.map((column) => column.value));
  if (near === undefined || far === undefined) return [];
  const common = { relation: relation.name, knows: 'many' as const, orderBy: [] };
  const symmetric = relation.form === 'symmetric';
  const table = relation.table.value;
  const roles: Role[] = [
    {
      ...common,
      name: first.role.text,
      entity: subject.name,
      owner: subject.name,
      target: target.name,
      way: { kind: 'pivot', table, near, far, symmetric, mark: null, marked: 'far' },
      note: first.note?.value ?? null,
      span: first.span,
    },
  ];
  if (second !== null) {
    roles.push({
      ...common,
      name: second.role.text,
      entity: target.name,
      owner: target.name,
      target: subject.name,
      way: { kind: 'pivot', table, near: far, far: near, symmetric, mark: null, marked: 'far' },
      note: second.note?.value ?? null,
      span: second.span,
    });
  }
  return roles;
}
