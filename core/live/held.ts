import type { AnswerRow } from '../load/index.js';
import type { Entity, Model, Role } from '../model/index.js';
import { joinKey, type Wire } from '../values/index.js';
import type { Relationship, Resources } from './resources.js';

interface Held {
  readonly model: Model;
  readonly resources: Resources;
}

/** Whether a value of an answer stands for one that is behind a wall. */
export function isHidden(value: unknown): boolean {
  return typeof value === 'object' && value !== null && 'hidden' in value && value.hidden === true;
}

/**
 * The one resource that the row’s own key columns lead to. Where it may be of several types it is not known without a look: it is
 * told where it is included.
 */
export function heldIn(
  { model, resources }: Held,
  entity: Entity,
  { role, many }: Relationship,
  row: AnswerRow,
): { readonly type: string; readonly id: string } | null | 'hidden' | 'not held' {
  if (many) return 'not held';
  const branch = 'branches' in role ? branchOf(entity, role.branches, row) : role;
  if (branch === null) return null;
  if (branch === 'hidden') return 'hidden';
  const target = model.entities.get(branch.target);
  if (branch.way.kind !== 'key' || target === undefined || target.kinds !== null) return 'not held';
  if (branch.way.mark !== null && branch.way.mark.held !== null) return 'not held';
  const parts = branch.way.columns.map((name) => row[memberOf(entity, name)]);
  if (parts.some((part) => part === undefined)) return 'not held';
  if (parts.some(isHidden)) return 'hidden';
  if (parts.some((part) => part === null)) return null;
  const type = resources.byEntity.get(target.name);
  return type === undefined ? 'not held' : { type: type.name, id: String(joinKey(target.key.type, parts as Wire[])) };
}

/** The branch of a role to rows of several entities that a row’s mark tells of; null where it leads nowhere. */
function branchOf(entity: Entity, branches: readonly Role[], row: AnswerRow): Role | null | 'hidden' {
  const [first] = branches;
  if (first?.way.kind !== 'key' || first.way.mark === null) return first ?? null;
  const mark = row[memberOf(entity, first.way.mark.column)];
  if (isHidden(mark)) return 'hidden';
  return branches.find(({ way }) => way.kind === 'key' && way.mark?.values.includes(String(mark))) ?? null;
}

/** The name under which an answer has a column: its field’s, else its own. */
function memberOf({ fields }: Entity, column: string): string {
  return fields.find((field) => field.column.value === column)?.name ?? column;
}
