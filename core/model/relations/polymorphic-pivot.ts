import type { Name, PivotColumn as StoredColumn } from '../../notation/index.js';
import { type Resolution, wrong } from '../draft.js';
import type { Role } from '../expression.js';
import { conventionalColumns } from '../keys.js';
import {
  type Chosen,
  farColumns,
  type PivotColumn,
  type PolymorphicPivotRelation,
  type PolymorphicRole,
  type PolymorphicStorage,
} from '../model.js';
import { singular, snakeCase } from '../names.js';
import { convention, sharedBy, stated } from './form.js';
import { pairDeleteRule, pairTable, pivotFields } from './pair-table.js';
import { markOf, type PolymorphicEnds, polymorphicRole, sharedType, targetsOf } from './polymorphic.js';

/** Many-to-many with several entities: pairs of a key, and of type and id, or of a key for each entity. */
export function resolvePolymorphicPivot(
  resolution: Resolution,
  ends: PolymorphicEnds,
): { relation: PolymorphicPivotRelation; roles: readonly (Role | PolymorphicRole)[] } | null {
  const { syntax, forth, holder, stored } = ends;
  const name = syntax.name.text;
  const targets = targetsOf(resolution, ends);
  if (targets === null || !canBePairs(resolution, ends)) return null;
  const sides = sidesOf(resolution, ends);
  if (sides === null) return null;
  const near = nearColumns(resolution, ends, sides.near);
  if (near === null) return null;
  const onDelete = pairDeleteRule(resolution, syntax);
  if (onDelete === null) return null;
  const storage = storageOf(resolution, ends, sides.far);
  if (storage === null) return null;
  const held = [...near, ...farColumns({ storage })].map(({ value }) => value);
  const twice = held.find((value, index) => held.findIndex((other) => other.toLowerCase() === value.toLowerCase()) !== index);
  if (twice !== undefined)
    return wrong(
      resolution,
      'named-twice',
      stored?.span ?? syntax.head,
      `relation ${name} names ${twice} twice. Each key has its own column.`,
    );
  const { fields } = pivotFields(resolution, stored, name, held, stored?.repeats === true || storage.kind === 'one of');
  const relation: PolymorphicPivotRelation = {
    kind: 'polymorphic pivot',
    form: 'polymorphic many-to-many',
    ...sharedBy(resolution, syntax),
    entity: null,
    given: stored?.given ?? false,
    table: pairTable(name, stored),
    near: { entity: holder.name, columns: near, role: forth?.role.text ?? null },
    targets,
    storage,
    fields,
    uniques: [],
    indexes: [],
    checks: [],
    keptInTable: [],
    repeats: stored?.repeats ?? false,
    withoutKey: stored?.withoutKey ?? false,
    onDelete,
  };
  return { relation, roles: rolesOf(relation, ends) };
}

/** Can pairs be kept of these targets, and where the line says? A finding says why not. */
function canBePairs(resolution: Resolution, { syntax, holder, stored, targets }: PolymorphicEnds): boolean {
  const label = `relation ${syntax.name.text}`;
  const composite = targets.find(({ entity }) => entity.key.fields.length > 1);
  if (composite !== undefined) {
    wrong(
      resolution,
      'key-parts',
      stored?.span ?? syntax.head,
      `${label}: ${composite.entity.name}’s key has several parts, and one id column holds one. Give it a key of one field, or state a relation of its own for it.`,
    );
    return false;
  }
  if (stored === null || stored.store.kind === 'table') return true;
  wrong(
    resolution,
    'store-form',
    stored.span,
    stored.store.kind === 'entity'
      ? `${label}: pairs that an entity holds are walked to one entity at a time. State a relation for each of ${targets.map(({ entity }) => entity.name).join(', ')}, all stored in ${stored.store.entity.text}.`
      : `${label} is many-to-many: it is stored in a table of pairs, as in “stored in table ${syntax.name.text} (${snakeCase(holder.name)}_id, thing_type with thing_id)”.`,
  );
  return false;
}

/** The columns that a line names for the two sides of a pair; null for a side of which it says nothing. */
interface Sides {
  readonly near: Exclude<StoredColumn, { kind: 'typed' }> | null;
  readonly far: Exclude<StoredColumn, { kind: 'column' }> | null;
}

/** Which of the two columns of the line is the holder's, and which leads to the several. Null, with a finding, for others. */
function sidesOf(resolution: Resolution, { syntax, holder, forth, stored, targets }: PolymorphicEnds): Sides | null {
  const columns = stored?.store.kind === 'table' ? stored.store.columns : null;
  if (columns === null) return { near: null, far: null };
  const [one, other] = columns;
  // The columns follow the subjects of the sentences: the holder's first where the first sentence is its own.
  const holderFirst = targets.every(({ back }) => back === null || forth === null || forth.span.start < back.span.start);
  const farFirst = holderFirst ? [other, one] : [one, other];
  const far =
    [one, other].find((column) => column?.kind === 'typed') ??
    // Of two lists the one that stands on the holder's side is its key.
    farFirst.find((column) => column?.kind === 'composite');
  const near = [one, other].find((column) => column !== undefined && column !== far);
  if (far !== undefined && near !== undefined && near.kind !== 'typed') return { near, far };
  return wrong(
    resolution,
    'store-form',
    stored?.span ?? syntax.head,
    `relation ${syntax.name.text} leads to several entities, so one side of the pair is type and id, or a column for each: “(${snakeCase(holder.name)}_id, thing_type with thing_id)” or “(${snakeCase(holder.name)}_id, (${targets.map(({ entity }) => `${snakeCase(entity.name)}_id`).join(', ')}))”.`,
  );
}

/** The columns that hold the holder's key: those the line names, else those of the convention. */
function nearColumns(
  resolution: Resolution,
  { syntax, holder, stored }: PolymorphicEnds,
  named: Sides['near'],
): PivotColumn[] | null {
  const names = named === null ? null : named.kind === 'column' ? [named.name] : named.names;
  const columns: PivotColumn[] =
    names === null
      ? conventionalColumns(snakeCase(holder.name), holder.key).map((value) => ({
          value,
          origin: convention('the entity’s name and _id'),
          field: null,
        }))
      : names.map((column) => ({ value: column.text, origin: stated(column.span), field: null }));
  if (columns.length === holder.key.fields.length) return columns;
  return wrong(
    resolution,
    'key-parts',
    stored?.span ?? syntax.head,
    `relation ${syntax.name.text}: ${holder.name}’s key has ${holder.key.fields.length} parts, so the pivot holds it in as many columns.`,
  );
}

/** How a pair says which row of the several it leads to: a column for each where the line lists them, else type and id. */
function storageOf(resolution: Resolution, ends: PolymorphicEnds, named: Sides['far']): PolymorphicStorage | null {
  const { syntax, forth, stored, targets } = ends;
  if (named?.kind === 'composite') {
    if (named.names.length !== targets.length)
      return wrong(
        resolution,
        'one-of-columns',
        stored?.span ?? syntax.head,
        `relation ${syntax.name.text}: one column for each of ${targets.map(({ entity }) => entity.name).join(', ')}, in this order; here are ${named.names.length}.`,
      );
    return {
      kind: 'one of',
      columns: named.names.map((column) => ({ value: column.text, origin: stated(column.span), declared: false })),
    };
  }
  const stem = forth === null ? 'thing' : singular(forth.role.text);
  const pick = (name: Name | undefined, rest: string): Chosen<string> =>
    name === undefined
      ? { value: `${stem}_${rest}`, origin: convention(`the singular of the role and _${rest}`) }
      : { value: name.text, origin: stated(name.span) };
  return {
    kind: 'type and id',
    type: pick(named?.type, 'type'),
    id: pick(named?.id, 'id'),
    idType: sharedType(targets.map(({ entity }) => entity.key.type)),
    triggers: !(stored?.withoutTriggers ?? false),
  };
}

function rolesOf(relation: PolymorphicPivotRelation, { holder, forth, targets }: PolymorphicEnds): (Role | PolymorphicRole)[] {
  const near = relation.near.columns.map(({ value }) => value);
  const { storage } = relation;
  const table = relation.table.value;
  const branches: Role[] = [];
  const backs: Role[] = [];
  relation.targets.forEach((target, index) => {
    const end = targets[index];
    if (end === undefined) return;
    const far = [(storage.kind === 'one of' ? storage.columns[index] : storage.id)?.value ?? ''];
    const mark = storage.kind === 'one of' ? null : markOf(storage, target, end.entity.key.type);
    const common = { relation: relation.name, knows: 'many' as const, orderBy: [] };
    if (forth !== null)
      branches.push({
        ...common,
        name: forth.role.text,
        entity: holder.name,
        owner: holder.name,
        target: target.entity,
        way: { kind: 'pivot', table, near, far, symmetric: false, mark, marked: 'far' },
        note: forth.note?.value ?? null,
        span: forth.span,
      });
    if (end.back !== null)
      backs.push({
        ...common,
        name: end.back.role.text,
        entity: target.entity,
        owner: end.back.subjects?.[0]?.text ?? relation.targets[0]?.entity ?? '',
        target: holder.name,
        way: { kind: 'pivot', table, near: far, far: near, symmetric: false, mark, marked: 'near' },
        note: end.back.note?.value ?? null,
        span: end.back.span,
      });
  });
  return forth === null ? backs : [polymorphicRole(forth, holder.name, relation.name, branches), ...backs];
}
