import type { Sentence } from '../../notation/index.js';
import { typeName } from '../../values/index.js';
import { type EntityDraft, type Resolution, wrong } from '../draft.js';
import type { Role } from '../expression.js';
import { sameKeyType } from '../fields.js';
import { conventionalColumns } from '../keys.js';
import type { Field, PivotColumn, PivotEnd, PivotRelation } from '../model.js';
import { singular, snakeCase } from '../names.js';
import { resolveEntityPivot } from './entity-pivot.js';
import { convention, type Ends, type RelationForm, sharedBy, stated } from './form.js';
import { pairDeleteRule, pairTable, pivotFields } from './pair-table.js';

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
  if (stored?.store.kind === 'entity' && form !== 'symmetric') return resolveEntityPivot(resolution, ends, stored);
  if (!canBePairs(resolution, ends, form)) return null;
  const name = syntax.name.text;
  const table = pairTable(name, stored);
  const [near, far] = pairEnds(ends, form);
  if (!holdsBothKeys(resolution, ends, table.value.name, near, far)) return null;
  const onDelete = pairDeleteRule(resolution, syntax);
  if (onDelete === null) return null;
  const keyColumns = [near, far].flatMap((end) => end.columns.map((column) => column.value));
  const { fields, keyFields } = pivotFields(resolution, stored, name, keyColumns);
  const declared = (end: PivotEnd, owner: EntityDraft) =>
    withDeclaredColumns(resolution, `relation ${name}: ${owner.name}`, table.value.name, end, owner, keyFields);
  const relation: PivotRelation = {
    kind: 'pivot',
    form,
    ...sharedBy(resolution, syntax),
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
  };
  return { relation, roles: rolesOf(relation, first, second, subject, target) };
}

/** Do the sentences and the line that stores them make a table of pairs? A finding says why not. */
function canBePairs(resolution: Resolution, ends: Ends, form: PivotRelation['form']): boolean {
  const { syntax, first, second, subject, target, stored } = ends;
  const name = syntax.name.text;
  const label = `relation ${name}`;
  if (stored === null && second === null && form !== 'symmetric') {
    wrong(
      resolution,
      'store-missing',
      first.span,
      `${label}: ${subject.name} knows many, and nothing says where that is stored. Add the sentence of ${target.name}, or “stored in table ${name}”.`,
    );
    return false;
  }
  if (stored !== null && stored.store.kind !== 'table') {
    wrong(
      resolution,
      'store-form',
      stored.span,
      stored.store.kind === 'entity'
        ? `${label}: a pair that is known both ways stands once, the lesser key first, and the two roles of ${stored.store.entity.text} each mean something else. Write “stored in table ${name}”, with the fields of the pair below.`
        : `${label} is many-to-many: it is stored in a table of pairs, as in “stored in table ${name}”.`,
    );
    return false;
  }
  return true;
}

/** Both ends of the pairs with the columns that hold their keys: those the text names, else those of the convention. */
function pairEnds(ends: Ends, form: PivotRelation['form']): [PivotEnd, PivotEnd] {
  const { first, second, subject, target, stored } = ends;
  const [left, right] = defaultColumns(ends, form);
  const store = stored?.store.kind === 'table' ? stored.store : null;
  const chosen = store?.columns?.map((column): PivotColumn[] => {
    const names = column.kind === 'column' ? [column.name] : column.kind === 'composite' ? column.names : [];
    return names.map((columnName) => ({ value: columnName.text, origin: stated(columnName.span), field: null }));
  });
  return [
    { entity: subject.name, columns: chosen?.[0] ?? left, role: first.role.text },
    {
      entity: target.name,
      columns: chosen?.[1] ?? right,
      role: form === 'symmetric' ? first.role.text : (second?.role.text ?? null),
    },
  ];
}

/** Has each end as many columns as its key has parts, and the far one a column that is its own? A finding says why not. */
function holdsBothKeys(
  resolution: Resolution,
  { syntax, subject, target, stored }: Ends,
  table: string,
  near: PivotEnd,
  far: PivotEnd,
): boolean {
  const label = `relation ${syntax.name.text}`;
  for (const [end, { key, name: entity }] of [
    [near, subject],
    [far, target],
  ] as const) {
    if (end.columns.length === key.fields.length) continue;
    wrong(
      resolution,
      'key-parts',
      stored?.span ?? syntax.head,
      `${label}: ${entity}’s key has ${key.fields.length === 1 ? 'one part' : `${key.fields.length} parts`} (${key.fields.map((field) => field.name).join(', ')}), so the pivot holds it in as many columns: “(${key.fields.length === 1 ? `${snakeCase(entity)}_id` : `(${conventionalColumns(snakeCase(entity), key).join(', ')})`}, …)”.`,
    );
    return false;
  }
  const nearColumns = near.columns.map(({ value }) => value.toLowerCase());
  if (far.columns.some(({ value }) => !nearColumns.includes(value.toLowerCase()))) return true;
  wrong(
    resolution,
    'pivot-columns',
    stored?.span ?? syntax.name.span,
    `${label}: both columns of ${table} would be ${nearColumns[0]}. Name them: “stored in table ${table} (a_id, b_id)”.`,
  );
  return false;
}

/**
 * An end whose columns know the lines that declare them among the pivot's fields; a line of another type than its key's is
 * told, and left.
 *
 * @param label the relation and the entity, as a finding begins
 */
function withDeclaredColumns(
  resolution: Resolution,
  label: string,
  table: string,
  end: PivotEnd,
  { key }: EntityDraft,
  keyFields: readonly Field[],
): PivotEnd {
  const columns = end.columns.map((column, index) => {
    const field = keyFields.find((candidate) => candidate.column.value === column.value);
    const part = key.fields[index];
    if (field === undefined || part === undefined || sameKeyType(field.type, part.type))
      return { ...column, field: field ?? null };
    wrong(
      resolution,
      'key-type-mismatch',
      field.span,
      `${label}’s key is ${typeName(part.type)}, but ${table}.${column.value} is ${typeName(field.type)}. Change the field to ${typeName(part.type)}, or remove the line.`,
    );
    return column;
  });
  return { ...end, columns };
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
