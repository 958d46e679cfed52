import type { Finding, RelationSyntax } from '../notation/index.js';
import { finishPivot, resolveOrder } from './constraints.js';
import type { Context } from './context.js';
import { addRole, type Resolution, wrong } from './draft.js';
import type { Order, Role } from './expression.js';
import { reading } from './expressions.js';
import type { Relation } from './model.js';
import { pivotBehind } from './paths.js';
import { refer } from './references.js';
import { resolveRelation } from './relations/index.js';
import { holdingsOf, isPivot, storedColumnsOf } from './storage.js';

/** Every relation that stands, with its roles given to their entities; in the order of the text. */
export function resolveRelations(resolution: Resolution, syntaxes: readonly RelationSyntax[]): Map<string, Relation> {
  const relations = new Map<string, Relation>();
  const names = new Set<string>();
  const columns = new Map<string, Relation>();
  const bodies = new Map<string, RelationSyntax>();
  // A pivot that is an entity stands on that entity's own relations.
  const pairs = (syntax: RelationSyntax) => syntax.lines.some((line) => line.kind === 'stored' && line.store.kind === 'entity');
  for (const syntax of [...syntaxes.filter((one) => !pairs(one)), ...syntaxes.filter(pairs)]) {
    const name = syntax.name.text;
    if (names.has(name.toLowerCase())) {
      wrong(resolution, 'name-clash', syntax.name.span, `There is a relation ${name} already. Rename one of the two.`);
      continue;
    }
    refer(resolution.references, syntax.name, 'relation', '', true);
    const resolved = resolveRelation(resolution, syntax);
    if (resolved === null) {
      for (const line of syntax.lines) {
        if (line.kind !== 'sentence') continue;
        // “each” speaks for every target of the other sentence.
        const targets = syntax.lines.flatMap((other) => (other.kind === 'sentence' && other !== line ? other.targets : []));
        for (const subject of line.subjects ?? targets) resolution.leftOutMembers.add(`${subject.text}.${line.role.text}`);
      }
      continue;
    }
    const { relation, roles } = resolved;
    if (columnTaken(resolution, columns, relation)) continue;
    names.add(name.toLowerCase());
    bodies.set(name, syntax);
    relations.set(name, relation);
    if ('targets' in relation)
      resolution.marks.set(
        name,
        new Map(relation.targets.flatMap(({ marks }) => marks.map(({ entity, mark }) => [entity, mark]))),
      );
    if (isPivot(relation)) resolution.pivots.set(name, relation);
    for (const role of roles) addRole(resolution, role);
  }
  for (const [name, relation] of relations) {
    if (!isPivot(relation)) continue;
    const stored = bodies.get(name)?.lines.find((line) => line.kind === 'stored');
    const finished = finishPivot(resolution, relation, stored?.kind === 'stored' ? stored.lines : []);
    relations.set(name, finished);
    resolution.pivots.set(name, finished);
  }
  const place = new Map(syntaxes.map((syntax, index) => [syntax.name.text, index]));
  return new Map([...relations].sort(([a], [b]) => (place.get(a) ?? 0) - (place.get(b) ?? 0)));
}

/** Keys of two relations may share some columns of a composite key, and never all. */
function columnTaken(resolution: Resolution, columns: Map<string, Relation>, relation: Relation): boolean {
  const { holder: child } = holdingsOf(relation);
  if (child === null || isPivot(relation)) return false;
  const names = storedColumnsOf(relation).map(({ value }) => value);
  const storage = resolution.kinds.get(child)?.storage.kind;
  const shares = storage === 'single table' || storage === 'json';
  const table = shares ? (resolution.kinds.get(child)?.root ?? child) : child;
  const sets = relation.kind === 'key' ? [names.join('.')] : names;
  for (const set of sets) {
    const place = `${table}.${set.toLowerCase()}`;
    const other = columns.get(place);
    if (other === undefined) {
      columns.set(place, relation);
      continue;
    }
    wrong(
      resolution,
      'column-clash',
      storedAt(relation),
      `relation ${relation.name} and relation ${other.name} are both stored in ${table}.${names.join(', ')}. Give one of them another column.`,
    );
    return true;
  }
  return false;
}

function storedAt(relation: Relation): Finding['span'] {
  const origin = relation.kind === 'key' ? relation.columns[0]?.origin : undefined;
  return origin?.kind === 'stated' ? origin.span : relation.head;
}

/** Roles' own orders are resolved when all names are known, since they may walk relations. */
export function orderRoles(resolution: Resolution, syntaxes: readonly RelationSyntax[]): void {
  const ordered = syntaxes.flatMap(({ lines }) => lines.filter((line) => line.kind === 'sentence' && line.orderBy.length > 0));
  if (ordered.length === 0) return;
  // A sentence may give its role to several entities, or one role a branch for each.
  const bySentence = new Map<Finding['span'], Role[]>();
  for (const entity of resolution.entities.values())
    for (const role of [...entity.roles, ...entity.polymorphic.flatMap(({ branches }) => branches)]) {
      if (role.entity !== entity.name) continue;
      const known = bySentence.get(role.span);
      if (known === undefined) bySentence.set(role.span, [role]);
      else known.push(role);
    }
  for (const syntax of syntaxes) {
    for (const line of syntax.lines) {
      if (line.kind !== 'sentence' || line.orderBy.length === 0) continue;
      for (const role of bySentence.get(line.span) ?? []) {
        const target = resolution.entities.get(role.target);
        if (target === undefined) continue;
        const context: Context = {
          resolution,
          reading,
          entity: target,
          pivot: pivotBehind(resolution, role),
          parameters: new Map(),
          label: `${role.entity}.${role.name}, order by`,
          query: null,
          reach: 'all',
          resolving: [],
        };
        (role as Role & { orderBy: readonly Order[] }).orderBy = resolveOrder(context, line.orderBy);
      }
    }
  }
}
