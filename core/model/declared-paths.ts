import type { PathSyntax } from '../notation/index.js';
import { resolveOrder } from './constraints.js';
import type { Context } from './context.js';
import { type EntityDraft, findEntity, hasDerived, lineageOf, type Resolution, wrong } from './draft.js';
import type { Hop, Role } from './expression.js';
import { reading } from './expressions.js';
import { ends, pivotBehind, walk } from './paths.js';
import { refer } from './references.js';

const known = new WeakMap<Resolution, Map<string, Role | null | 'open'>>();

/** All paths that the text declares, by the entity that has them: a kind has its bases', too. */
export function resolveDeclaredPaths(resolution: Resolution, syntaxes: readonly PathSyntax[]): Map<string, Role[]> {
  for (const syntax of syntaxes) declare(resolution, syntax);
  const paths = new Map<string, Role[]>();
  const lines = new Map<string, { readonly place: number; readonly name: string }[]>();
  let place = 0;
  for (const { entity, name } of resolution.pathLines.values()) {
    place += 1;
    const known = lines.get(entity.text);
    if (known === undefined) lines.set(entity.text, [{ place, name: name.text }]);
    else known.push({ place, name: name.text });
  }
  for (const entity of resolution.entities.values()) {
    const stated = lineageOf(entity).flatMap(({ name }) => lines.get(name) ?? []);
    const own = stated
      .sort((a, b) => a.place - b.place)
      .map(({ name }) => resolveDeclaredPath(resolution, entity, name))
      .filter((path) => path !== null);
    if (own.length > 0) paths.set(entity.name, own);
  }
  return paths;
}

function declare(resolution: Resolution, syntax: PathSyntax): void {
  const entity = findEntity(resolution, syntax.entity, `path ${syntax.name.text}`);
  if (entity === null) {
    resolution.leftOutMembers.add(`${syntax.entity.text}.${syntax.name.text}`);
    return;
  }
  const lower = syntax.name.text.toLowerCase();
  const other = [...entity.fields, ...entity.roles, ...entity.polymorphic].find(({ name }) => name.toLowerCase() === lower);
  const key = `${entity.name}.${syntax.name.text}`;
  const isDerived = hasDerived(entity, lower);
  if (other !== undefined || isDerived || resolution.pathLines.has(key)) {
    const what = isDerived
      ? 'a derived field'
      : other === undefined
        ? 'a path'
        : 'branches' in other || 'way' in other
          ? 'a role'
          : 'a field';
    wrong(
      resolution,
      'name-clash',
      syntax.name.span,
      `${entity.name}.${syntax.name.text} is ${what} already. Give the path another name.`,
    );
    return;
  }
  refer(resolution.references, syntax.name, 'path', entity.name, true);
  resolution.pathLines.set(key, syntax);
}

/**
 * The path of this name as a role: what stands behind its hops, each row once. Null where the entity has none, or,
 * with a finding, where it is wrong or stands on itself.
 */
export function resolveDeclaredPath(resolution: Resolution, entity: EntityDraft, name: string): Role | null {
  const owner = lineageOf(entity).find((one) => resolution.pathLines.has(`${one.name}.${name}`));
  const syntax = owner === undefined ? undefined : resolution.pathLines.get(`${owner.name}.${name}`);
  if (owner === undefined || syntax === undefined) return null;
  const done = known.get(resolution) ?? new Map<string, Role | null | 'open'>();
  known.set(resolution, done);
  const key = `${owner.name}.${name}`;
  const before = done.get(key);
  if (before === 'open') {
    done.set(key, null);
    resolution.leftOutMembers.add(key);
    return wrong(
      resolution,
      'path-loop',
      syntax.name.span,
      `path ${key} stands on itself. Let it walk relations, or paths that do not come back to it.`,
    );
  }
  if (before !== undefined) return before;
  if (resolution.counts.openPaths > MOST_PATHS_DEEP)
    return wrong(resolution, 'too-deep', syntax.name.span, `path ${key} stands on too many others, one on the other, to follow.`);
  done.set(key, 'open');
  resolution.counts.openPaths += 1;
  const role = resolved(resolution, owner, syntax);
  resolution.counts.openPaths -= 1;
  if (role === null) resolution.leftOutMembers.add(key);
  done.set(key, role);
  return role;
}

/** How many paths may stand on each other, and how many relations one may walk. */
const MOST_PATHS_DEEP = 30;
const MOST_HOPS = 60;

const lengths = new WeakMap<Role, number>();

/** How many relations hops walk, those of the paths among them with it. */
function lengthOf(hops: readonly Hop[]): number {
  return hops.reduce((sum, { role }) => {
    const length = lengths.get(role) ?? (role.way.kind === 'path' ? lengthOf(role.way.hops) : 1);
    lengths.set(role, length);
    return sum + length;
  }, 0);
}

function resolved(resolution: Resolution, entity: EntityDraft, syntax: PathSyntax): Role | null {
  const label = `path ${entity.name}.${syntax.name.text}`;
  const context: Context = {
    resolution,
    reading,
    entity,
    pivot: null,
    parameters: new Map(),
    label,
    query: null,
    reach: 'all',
    resolving: [],
  };
  const ways = walk(context, syntax.path);
  if (ways === null) return null;
  const [hops, ...more] = ways;
  const last = hops?.at(-1);
  if (hops === undefined || last === undefined) return null;
  if (more.length > 0)
    return wrong(
      resolution,
      'path-several',
      syntax.path.span,
      `${label} would lead to rows of several entities. Say which, as in “(… as ${last.role.target})”.`,
    );
  const target = ends(resolution, hops);
  if (target === null) return null;
  if (lengthOf(hops) > MOST_HOPS)
    return wrong(
      resolution,
      'too-deep',
      syntax.path.span,
      `${label} walks more than ${MOST_HOPS} relations, one after the other, and is left out. Each is a join of its own.`,
    );
  const many = hops.some(({ role }) => role.knows === 'many');
  if (syntax.first && syntax.orderBy.length === 0)
    return wrong(
      resolution,
      'first-unordered',
      syntax.name.span,
      `${label}: which is the first needs an order, as in “order by ${target.fields[0]?.name ?? 'id'} desc first”.`,
    );
  const inner = { ...context, entity: target, pivot: pivotBehind(resolution, last.role) };
  return {
    name: syntax.name.text,
    entity: entity.name,
    owner: entity.name,
    target: target.name,
    relation: '',
    knows: many && !syntax.first ? 'many' : 'at most one',
    way: { kind: 'path', hops, first: syntax.first },
    orderBy: resolveOrder(inner, syntax.orderBy),
    note: syntax.note?.value ?? null,
    span: syntax.span,
  };
}
