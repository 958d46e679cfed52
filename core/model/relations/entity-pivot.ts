import type { Name } from '../../notation/index.js';
import { type EntityDraft, findEntity, type Resolution, unknownName, wrong } from '../draft.js';
import type { Mark, Role } from '../expression.js';
import type { PivotEnd, PivotRelation } from '../model.js';
import { refer } from '../references.js';
import { convention, type Ends, ruleOf, type StoredLine, sharedBy, stated } from './form.js';

/** A pivot that is an entity: its rows are the pairs, and two of its roles lead to their ends. */
export function resolveEntityPivot(
  resolution: Resolution,
  ends: Ends,
  stored: StoredLine,
): { relation: PivotRelation; roles: readonly Role[] } | null {
  const { syntax, first, second, subject, target } = ends;
  const label = `relation ${syntax.name.text}`;
  if (stored.store.kind !== 'entity') return null;
  const entity = findEntity(resolution, stored.store.entity, label);
  if (entity === null) return null;
  const { kinds } = entity;
  if (kinds !== null && (kinds.base !== null || kinds.storage.kind === 'separate tables')) {
    return wrong(
      resolution,
      'pivot-kind',
      stored.store.entity.span,
      `${label}: ${entity.name} ${kinds.base === null ? 'keeps its kinds in separate tables, so no one table holds the pairs' : `is a kind of ${kinds.base}, and the pairs of all kinds stand there`}. Store it in an entity with a table for all of its rows.`,
    );
  }
  const roles = stored.store.roles ?? inferred(resolution, ends, entity, stored);
  if (roles === null) return null;
  const [near, far] = [endOf(resolution, label, entity, subject, roles[0]), endOf(resolution, label, entity, target, roles[1])];
  if (near === null || far === null) return null;
  if (near.mark !== null && far.mark !== null)
    return wrong(
      resolution,
      'pivot-roles',
      stored.span,
      `${label}: both roles of ${entity.name} lead to several entities, and of a pair one end at least leads to one alone. Name a role that does.`,
    );
  const onDelete = ruleOf(resolution, syntax, 'on delete', 'cascade', `the rules of ${entity.name}’s own relations hold`);
  const columns = [...near.columns, ...far.columns];
  const pivot = (end: PivotEnd['columns'], role: string | null, whose: EntityDraft): PivotEnd => ({
    entity: whose.name,
    columns: end,
    role,
  });
  const held = (names: readonly string[]): PivotEnd['columns'] =>
    names.map((value) => ({ value, origin: convention(`the role in ${entity.name}`), field: null }));
  const relation: PivotRelation = {
    kind: 'pivot',
    form: 'many-to-many',
    ...sharedBy(resolution, syntax),
    entity: entity.name,
    given: entity.given,
    table: { value: entity.table.value, origin: stated(stored.span) },
    ends: [pivot(held(near.columns), first.role.text, subject), pivot(held(far.columns), second?.role.text ?? null, target)],
    fields: entity.fields.filter((field) => !columns.includes(field.column.value)),
    uniques: [],
    indexes: [],
    checks: [],
    keptInTable: [],
    repeats: stored.repeats,
    withoutKey: false,
    onDelete,
  };
  const table = relation.table.value;
  const common = { relation: relation.name, knows: 'many' as const, orderBy: [] };
  const mark = near.mark ?? far.mark;
  const side = near.mark === null ? 'far' : 'near';
  const turned = near.mark === null ? 'near' : 'far';
  const made: Role[] = [
    {
      ...common,
      name: first.role.text,
      entity: subject.name,
      owner: subject.name,
      target: target.name,
      way: { kind: 'pivot', table, near: near.columns, far: far.columns, symmetric: false, mark, marked: side },
      note: first.note?.value ?? null,
      span: first.span,
    },
  ];
  if (second !== null)
    made.push({
      ...common,
      name: second.role.text,
      entity: target.name,
      owner: target.name,
      target: subject.name,
      way: { kind: 'pivot', table, near: far.columns, far: near.columns, symmetric: false, mark, marked: turned },
      note: second.note?.value ?? null,
      span: second.span,
    });
  return { relation, roles: made };
}

interface End {
  readonly columns: readonly string[];
  readonly mark: Mark | null;
}

/** The columns in which the pivot's entity points at one end. */
function endOf(resolution: Resolution, label: string, pivot: EntityDraft, end: EntityDraft, name: Name): End | null {
  const branches = pivot.polymorphic.find((role) => role.name === name.text)?.branches ?? [];
  const role = [...pivot.roles, ...branches].find(
    (candidate) => candidate.name === name.text && (candidate.target === end.name || isBelow(end, candidate.target)),
  );
  if (role?.way.kind === 'key') {
    refer(resolution.references, name, 'role', role.owner);
    return { columns: role.way.columns, mark: role.way.mark };
  }
  const known = [...pivot.roles, ...branches].filter(
    (candidate) => candidate.target === end.name && candidate.way.kind === 'key',
  );
  return unknownName(
    resolution,
    name,
    `role of ${pivot.name} to one ${end.name}, as ${label} needs, called`,
    known.map((candidate) => candidate.name),
  );
}

function isBelow(entity: EntityDraft, base: string): boolean {
  for (let above = entity.base; above !== null; above = above.base) if (above.name === base) return true;
  return false;
}

/** The two roles, where there is only one of each to choose. */
function inferred(
  resolution: Resolution,
  { subject, target, syntax }: Ends,
  pivot: EntityDraft,
  stored: StoredLine,
): readonly [Name, Name] | null {
  const to = (entity: EntityDraft) => pivot.roles.filter((role) => role.way.kind === 'key' && role.target === entity.name);
  const candidates = subject === target ? [to(subject)[0], to(subject)[1]] : [to(subject)[0], to(target)[0]];
  const clear = subject === target ? to(subject).length === 2 : to(subject).length === 1 && to(target).length === 1;
  const [one, other] = candidates;
  if (clear && one !== undefined && other !== undefined)
    return [
      { text: one.name, span: stored.span },
      { text: other.name, span: stored.span },
    ];
  return wrong(
    resolution,
    'pivot-roles',
    stored.span,
    `relation ${syntax.name.text}: say which roles of ${pivot.name} lead to its ends, as in “stored in ${pivot.name} (${to(subject)[0]?.name ?? 'one'}, ${to(target)[subject === target ? 1 : 0]?.name ?? 'other'})”.`,
  );
}
