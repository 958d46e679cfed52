import { both, isNotTrue, keyRoles, type ReachedFor, reachedWhere, type Witness } from '../core/audit/index.js';
import { type Entity, type Expression, entityOf, type Field, type Hop, queryOf, type Role } from '../core/model/index.js';
import { planQuery } from '../core/plan/index.js';
import { joinKey, type Wire } from '../core/values/index.js';
import type { RowAt } from '../core/write/index.js';
import type { AuditedReads } from './audit-reads.js';

const NOWHERE = { start: 0, end: 0 };
const BOOLEAN = { kind: 'boolean' } as const;

/** That a row is this one. */
export function isIt(entity: string, row: Expression): Expression {
  const own: Expression = { kind: 'role', hops: [], type: { kind: 'row', entity }, span: NOWHERE };
  return { kind: 'binary', operator: '=', left: own, right: row, type: BOOLEAN, span: NOWHERE };
}

/** That there is a row behind hops. */
export function anyBehind(hops: readonly Hop[]): Expression {
  return { kind: 'quantified', quantifier: 'any', hops, test: null, type: BOOLEAN, span: NOWHERE };
}

/** Which row is wanted: one of all, or one that is within reach, or out of it. */
export type Wanted = 'any' | 'within reach' | 'out of reach';

/** A row of an entity with all that is stored of it, looked up outside of all walls; null where there is none such. */
export async function witnessOf(
  reads: AuditedReads,
  entity: string,
  wantedFor: ReachedFor,
  wanted: Wanted,
  also: Expression | null = null,
): Promise<Witness | null> {
  const reached = reachedWhere(reads.audited, entity, wantedFor);
  if (wanted === 'out of reach' && reached === null) return null;
  const side = reached === null || wanted === 'any' ? null : wanted === 'within reach' ? reached : isNotTrue(reached);
  const where = side === null ? also : also === null ? side : both(also, side);
  return witnessWhere(reads, entity, where === null ? [] : [where]);
}

/**
 * Rows of an entity that somebody does not see: for each line of the walls on it one that this line alone keeps, so that a line which
 * is not held is noticed whatever the others keep; where there is none such, any.
 */
export async function hiddenRows(reads: AuditedReads, entity: string): Promise<readonly Witness[]> {
  const { isNobody, walls } = reads.audited;
  const lines = walls.flatMap((wall) =>
    wall.reads ? (wall.conditions.get(entity) ?? []).map((line) => ({ ...wall, conditions: new Map([[entity, [line]]]) })) : [],
  );
  const found = new Map<string, Witness>();
  for (const line of lines.length > 1 ? lines : []) {
    const own = reachedWhere({ isNobody, walls: [line] }, entity, 'read');
    const rest = reachedWhere({ isNobody, walls: lines.filter((one) => one !== line) }, entity, 'read');
    if (own === null || rest === null) continue;
    const row = await witnessWhere(reads, entity, [both(isNotTrue(own), rest)]);
    if (row !== null) found.set(String(row.key), row);
  }
  if (found.size > 0) return Array.from(found.values());
  const any = await witnessOf(reads, entity, 'read', 'out of reach');
  return any === null ? [] : [any];
}

/** The first row of an entity, by its key, for which conditions are true. */
export async function witnessWhere(reads: AuditedReads, entity: string, where: readonly Expression[]): Promise<Witness | null> {
  const [row] = await witnesses(reads, entity, where, 1);
  return row ?? null;
}

/** The first rows of an entity, by their keys. */
export async function witnessAfter(reads: AuditedReads, entity: string, most: number): Promise<readonly Witness[]> {
  return witnesses(reads, entity, [], most);
}

async function witnesses(
  reads: AuditedReads,
  entity: string,
  where: readonly Expression[],
  most: number,
): Promise<readonly Witness[]> {
  const { design, engine } = reads.lookedAt;
  const known = entityOf(design.model, entity);
  const { fields, key } = known;
  const roles = keyRoles(known);
  const stored = fields.map((field) => fieldIn(entity, field));
  const behind = roles.map(
    (role): Expression => ({ kind: 'role', hops: [role], type: { kind: 'row', entity: role.target }, span: NOWHERE }),
  );
  const show = [...stored, ...behind].map((expression, at) => ({ name: `value_${at}`, expression, span: NOWHERE }));
  const orderBy = key.fields.map((field) => ({ expression: fieldIn(entity, field), descending: false }));
  const limit: Expression = { kind: 'value', value: most, type: { kind: 'integer' }, span: NOWHERE };
  const ready = reads.prepared(planQuery(design.model, queryOf(entity, { where, show, orderBy, limit })));
  if (!ready.ok) {
    reads.blind.add(ready.problems.join(' '));
    return [];
  }
  const read = await engine.run('load', { prepared: ready.prepared, rowLimit: most, explained: 'not' }, reads.call);
  if (!read.ok) {
    reads.blind.add(read.problem.message);
    return [];
  }
  const lines = JSON.parse(read.value.text) as readonly Readonly<Record<string, Wire>>[];
  return lines.map((line) => rowOf(known, roles, line));
}

/** A row of the values that were shown of it: first its fields, then the keys behind its roles. */
function rowOf({ name: entity, fields, key }: Entity, roles: readonly Role[], line: Readonly<Record<string, Wire>>): Witness {
  const values = new Map(fields.map(({ name }, at): [string, Wire] => [name, line[`value_${at}`] ?? null]));
  const parts = key.fields.map(({ name }) => values.get(name) ?? null);
  return {
    entity,
    key: parts.length === 1 ? (parts[0] ?? null) : joinKey(key.type, parts),
    values,
    behind: new Map(
      roles.flatMap(({ name, target }, at): [string, RowAt][] => {
        const there = line[`value_${fields.length + at}`] ?? null;
        return there === null ? [] : [[name, { entity: target, key: there }]];
      }),
    ),
  };
}

function fieldIn(entity: string, { name, type }: Field): Expression {
  return { kind: 'field', hops: [], entity, field: name, type, span: NOWHERE };
}
