import type { AnswerRow } from '../load/index.js';
import { type Entity, entityOf, type Load, lineage, loadOf, type Model, type Role } from '../model/index.js';
import { TITLE } from '../plan/index.js';
import type { Wire } from '../values/index.js';
import { keyIn, kindIn } from '../write/index.js';
import { type ColumnUse, kindsBelow, usesOf } from './uses.js';

/** The columns of a file that has all of an entity's rows in it, so that they can be put in from it again. */
export function columnsOut(model: Model, name: string): readonly ColumnUse[] {
  const entity = entityOf(model, name);
  const hidden = new Set(
    [entity, ...kindsBelow(model, entity)].flatMap(({ fields }) => fields.flatMap((field) => (field.hidden ? [field.name] : []))),
  );
  const uses = usesOf(model, name).map(({ use }) => use);
  const kind = uses.filter((use) => use.kind === 'the kind');
  const fields = uses.filter((use) => use.kind === 'field' && !hidden.has(use.field));
  const roles = uses.filter((use) => use.kind === 'role' && use.by.kind === 'key' && use.target === null);
  return [...kind, ...fields, ...roles];
}

/** What has to be loaded with rows of an entity for the columns of a file. */
export function loadsFor(model: Model, name: string, uses: readonly ColumnUse[]): readonly Load[] {
  const entity = entityOf(model, name);
  const wanted = new Map<string, Set<string>>();
  for (const use of uses) {
    if (use.kind !== 'role') continue;
    const fields = wanted.get(use.role) ?? new Set();
    if (use.by.kind === 'shown') fields.add(TITLE);
    if (use.by.kind === 'field') fields.add(use.by.field);
    wanted.set(use.role, fields);
  }
  const all = [entity, ...kindsBelow(model, entity)];
  const owned = (one: Entity, role: { readonly entity: string }) => one === entity || role.entity === one.name;
  const load = (role: Role, branch: boolean): readonly Load[] => {
    const fields = wanted.get(role.name);
    if (fields === undefined) return [];
    const there = new Set(entityOf(model, role.target).fields.map((field) => field.name));
    return [loadOf(role, { branch, fields: Array.from(fields).filter((field) => field === TITLE || there.has(field)) })];
  };
  return all.flatMap((one) => [
    ...one.roles.filter((role) => owned(one, role) && role.knows !== 'many').flatMap((role) => load(role, false)),
    ...one.polymorphic
      .filter((role) => owned(one, role) && role.knows !== 'many')
      .flatMap(({ branches }) => branches.flatMap((branch) => load(branch, true))),
  ]);
}

/** What a row has in a column of a file. @param row with what `loadsFor` asks for */
export function valueIn(model: Model, entity: string, use: ColumnUse, row: AnswerRow): Wire {
  switch (use.kind) {
    case 'left out':
      return null;
    case 'the kind':
      return kindIn(entity, row);
    case 'field':
      return (row[use.field] ?? null) as Wire;
    case 'role': {
      const other = row[use.role];
      if (typeof other !== 'object' || other === null || Array.isArray(other)) return null;
      return namedBy(model, use, other as AnswerRow, targetsOf(model, entity, use));
    }
  }
}

function targetsOf(model: Model, name: string, { role }: Extract<ColumnUse, { kind: 'role' }>): readonly string[] {
  const entity = entityOf(model, name);
  return Array.from(
    new Set(
      [entity, ...kindsBelow(model, entity)].flatMap(({ roles, polymorphic }) => [
        ...roles.filter((one) => one.name === role).map(({ target }) => target),
        ...polymorphic.filter((one) => one.name === role).flatMap(({ branches }) => branches.map(({ target }) => target)),
      ]),
    ),
  );
}

function namedBy(
  model: Model,
  { target, by }: Extract<ColumnUse, { kind: 'role' }>,
  other: AnswerRow,
  targets: readonly string[],
): Wire {
  const [only, ...more] = targets;
  const entity = kindIn(only ?? '', other);
  if (target !== null && !lineage(model, entity).some(({ name }) => name === target)) return null;
  if (by.kind === 'shown') return (other[TITLE] ?? null) as Wire;
  if (by.kind === 'field') return (other[by.field] ?? null) as Wire;
  const key = keyIn(model, entity, other);
  return more.length === 0 || target !== null ? key : `${entity}(${String(key)})`;
}

/** A value as a text of CSV; null where it is the text that stands for nothing, though it is something. */
export function cellText(value: Wire, nothing: string): { readonly text: string; readonly isNothing: boolean } {
  if (value === null) return { text: nothing, isNothing: true };
  const stored = typeof value === 'object' && 'asStored' in value ? value.asStored : value;
  const text =
    typeof stored === 'object' && stored !== null
      ? 'bytes' in stored && value !== stored
        ? String(stored.bytes)
        : JSON.stringify(stored)
      : String(stored);
  return { text, isNothing: false };
}
