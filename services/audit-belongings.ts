import { closingLine, isNotTrue, namedRow, ownLine, reachedWhere } from '../core/audit/index.js';
import { nameText } from '../core/edits/index.js';
import {
  type Entity,
  type Expression,
  entityOf,
  type Hop,
  lineage,
  type Model,
  type Role,
  type Wall,
} from '../core/model/index.js';
import type { Fix } from '../core/notation/index.js';
import { type Hole, holeOf } from './audit-hole.js';
import type { AuditedReads } from './audit-reads.js';
import { anyBehind, isIt, witnessWhere } from './audit-witnesses.js';

/** So many roles lead to whoever rows belong to, at most. */
const LONGEST_PATH = 3;

/** A path of roles that every row has, from an entity to one that it belongs to. */
interface Belonging {
  readonly path: readonly Role[];
  readonly target: string;
}

/** The entities that rows of one belong to: over roles behind which there is always a row. */
function belongings(model: Model, entity: Entity): readonly Belonging[] {
  const found: Belonging[] = [];
  let reached: readonly Belonging[] = [{ path: [], target: entity.name }];
  const seen = new Set([entity.name]);
  for (let length = 1; length <= LONGEST_PATH; length++) {
    const next: Belonging[] = [];
    for (const { path, target } of reached) {
      const { roles, polymorphic } = entityOf(model, target);
      const owners = [...roles, ...polymorphic.filter(({ knows }) => knows === 'one').flatMap(({ branches }) => branches)];
      for (const role of owners) {
        if (role.way.kind !== 'key' || role.knows !== 'one' || seen.has(role.target)) continue;
        seen.add(role.target);
        next.push({ path: [...path, role], target: role.target });
      }
    }
    found.push(...next);
    reached = next;
  }
  return found;
}

function hasWall(model: Model, { name }: Entity): boolean {
  return Array.from(model.walls.values()).some(({ conditions }) => conditions.has(name));
}

/** Rows that belong to somebody else, or to a row that is out of reach, and that no wall stands on. */
export async function belongingTo(everybody: readonly AuditedReads[], entity: Entity): Promise<readonly Hole[]> {
  const [first] = everybody;
  if (first === undefined) return [];
  const { design } = first.lookedAt;
  const { model } = design;
  if (entity.name === model.actor && !hasWall(model, entity)) return ofActors(everybody, entity);
  const isSpokenOf = hasWall(model, entity) || entity.name === model.actor || kindsHaveWalls(model, entity);
  if (isSpokenOf) return [];
  // What a kind has from its base is told of the base, where no other kind of it has a wall.
  const root = (entity.kinds?.base ?? null) === null ? null : entityOf(model, entity.kinds?.root ?? entity.name);
  const isTold = root !== null && !kindsHaveWalls(model, root);
  for (const { path, target } of belongings(model, entity)) {
    if (isTold && path[0]?.entity !== entity.name) continue;
    for (const reads of everybody) {
      const others = othersOf(reads, target);
      if (others === null) continue;
      const row = await witnessWhere(reads, entity.name, [leadingTo(path, others)]);
      if (row === null) continue;
      const names = path.map(({ name }) => name);
      const walled = wallOn(reads, target);
      const fix =
        (walled === null ? null : closingLine(design, walled, entity.name, names, target)) ??
        ownLineOver(reads, entity.name, names, target);
      const said =
        walled === null ? `it belongs to another ${target}` : `it belongs to a ${target} whom wall ${walled} hides from them`;
      const message = `No wall stands on ${entity.name}: ${reads.audited.as} reads and changes ${namedRow(model, row)}, and ${said}, over ${names.join('.')}.`;
      return [holeOf(reads, row, { code: 'no-wall', weight: 'leak', message, span: entity.head, fix })];
    }
  }
  return [];
}

/** The rows of those who are at work, where no wall stands on them. */
async function ofActors(everybody: readonly AuditedReads[], entity: Entity): Promise<readonly Hole[]> {
  for (const reads of everybody) {
    const others = othersOf(reads, entity.name);
    const row = others === null ? null : await witnessWhere(reads, entity.name, [others]);
    if (row === null) continue;
    const named = namedRow(reads.lookedAt.design.model, row);
    const message = `No wall stands on ${entity.name}, which those at work are rows of: ${reads.audited.as} reads and changes ${named}, and every other.`;
    return [holeOf(reads, row, { code: 'no-wall', weight: 'doubt', message, span: entity.head })];
  }
  return [];
}

function kindsHaveWalls(model: Model, { kinds }: Entity): boolean {
  return (kinds?.concrete ?? []).some(({ entity }) =>
    Array.from(model.walls.values()).some(({ conditions }) => conditions.has(entity)),
  );
}

function ownLineOver(
  { lookedAt: { design } }: AuditedReads,
  entity: string,
  path: readonly string[],
  target: string,
): Fix | null {
  const isActor = lineage(design.model, target).some(({ name }) => name === design.model.actor);
  return isActor ? ownLine(design, entity, path) : null;
}

/** What is true of the rows of an entity that are not for somebody: those out of reach, or of the actor's own entity all but theirs. */
function othersOf(reads: AuditedReads, target: string): Expression | null {
  const reached = reachedWhere(reads.audited, target, 'read');
  if (reached !== null) return isNotTrue(reached);
  const { model } = reads.lookedAt.design;
  if (target !== model.actor || wallsOf(model, target).length > 0 || reads.named.kind !== 'row') return null;
  return isNotTrue(isIt(target, reads.named.row));
}

function wallsOf(model: Model, entity: string): readonly Wall[] {
  return Array.from(model.walls.values()).filter(({ conditions }) => conditions.has(entity));
}

/** The wall that keeps rows of an entity from somebody. */
function wallOn({ audited }: AuditedReads, entity: string): string | null {
  return audited.walls.find(({ conditions, reads }) => reads && conditions.has(entity))?.name ?? null;
}

function leadingTo(path: readonly Role[], condition: Expression): Expression {
  return anyBehind(path.map((role, at): Hop => ({ role, filter: at === path.length - 1 ? condition : null })));
}

/** A row that walls let through, though it belongs to one that they do not. */
export async function seenApart(everybody: readonly AuditedReads[], entity: Entity): Promise<readonly Hole[]> {
  for (const reads of everybody) {
    const { model } = reads.lookedAt.design;
    const own = reachedWhere(reads.audited, entity.name, 'read');
    if (own === null) continue;
    for (const { path, target } of belongings(model, entity).filter((one) => one.path.length === 1)) {
      const reached = reachedWhere(reads.audited, target, 'read');
      if (reached === null || target === entity.name) continue;
      const row = await witnessWhere(reads, entity.name, [own, leadingTo(path, isNotTrue(reached))]);
      if (row === null) continue;
      const [role] = path;
      const message = `${reads.audited.as} sees ${namedRow(model, row)}, and not the ${target} that it belongs to, over ${role?.name}: are the walls on ${entity.name} and ${target} meant to part them?`;
      const span = wallsOf(model, entity.name)[0]?.head ?? entity.head;
      const below = `\nload ${nameText(role?.name ?? '')}`;
      return [holeOf(reads, row, { code: 'seen-apart', weight: 'doubt', message, span, below })];
    }
  }
  return [];
}
