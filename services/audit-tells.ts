import { isNotTrue, keyRoles, namedRow, reachedWhere } from '../core/audit/index.js';
import { type Entity, entityOf, type Field, type Role } from '../core/model/index.js';
import type { Span } from '../core/notation/index.js';
import type { AuditedReads } from './audit-reads.js';
import { anyBehind, witnessWhere } from './audit-witnesses.js';

/** A value that is seen, and tells of a row that is not: by design, and so no leak. */
export interface Tells {
  readonly message: string;
  readonly span: Span;
}

/**
 * What is seen of rows that are not: keys that fields show, uniques that are taken, and queries that see over a wall.
 *
 * @param everybody actors that are tried, without nobody
 */
export async function tellsOf(everybody: readonly AuditedReads[]): Promise<readonly Tells[]> {
  const [first] = everybody;
  if (first === undefined) return [];
  const { model } = first.lookedAt.design;
  const tells: Tells[] = [];
  for (const entity of model.entities.values()) {
    for (const role of keyRoles(entity)) {
      const field = shownKey(entity, role);
      const told = field === null ? null : await keyTold(everybody, entity, role, field);
      if (told !== null) tells.push(told);
    }
    const isWalled = Array.from(model.walls.values()).some(({ reads, conditions }) => reads && conditions.has(entity.name));
    for (const { name, owner, span } of isWalled ? entity.fields.filter(({ unique, key }) => unique !== null && !key) : [])
      if (owner === entity.name || !model.entities.has(owner))
        tells.push({
          message: `${entity.name}.${name} is unique: whoever puts in what a hidden ${entity.name} has is told that it is taken, and by no more.`,
          span,
        });
  }
  for (const { name, lifts, span } of model.queries.values())
    if (lifts.length > 0)
      tells.push({
        message: `query ${name} sees over ${lifts.join(' and ')}: it tells of rows that are hidden elsewhere.`,
        span,
      });
  return tells;
}

/** The field that shows the key which a role holds; null where none does. */
function shownKey({ fields }: Entity, { way }: Role): Field | null {
  if (way.kind !== 'key') return null;
  const [column] = way.columns;
  return fields.find((field) => field.column.value === column && !field.hidden) ?? null;
}

/** A row that somebody sees with the key of one that they do not; null where there is none. */
async function keyTold(everybody: readonly AuditedReads[], entity: Entity, role: Role, field: Field): Promise<Tells | null> {
  for (const reads of everybody) {
    const target = reachedWhere(reads.audited, role.target, 'read');
    if (target === null) continue;
    const own = reachedWhere(reads.audited, entity.name, 'read');
    const leads = anyBehind([{ role, filter: isNotTrue(target) }]);
    const row = await witnessWhere(reads, entity.name, own === null ? [leads] : [own, leads]);
    if (row === null) continue;
    const { model } = reads.lookedAt.design;
    const name = entityOf(model, entity.name).name;
    return {
      message: `${name}.${field.name} shows the key of a hidden ${role.target}: ${reads.audited.as} sees it in ${namedRow(model, row)}. A role that keeps its key to itself is told as hidden.`,
      span: field.span,
    };
  }
  return null;
}
