import { type LoadSyntax, type Name, type Span, withArticle } from '../notation/index.js';
import { resolveAmount } from './amounts.js';
import { resolveOrder } from './constraints.js';
import { type Context, type Member, memberNames, memberOf } from './context.js';
import { type EntityDraft, findEntity, lineageOf, type Resolution, unknownMember, wrong } from './draft.js';
import type { Expression, Role } from './expression.js';
import { resolveCondition } from './expressions.js';
import type { AnyPivotRelation, Load } from './model.js';
import { branchTo, narrowTo, pivotBehind, told } from './paths.js';
import { refer } from './references.js';

/** A line `load` that says nothing but what is loaded. */
export function plainLoad(path: LoadSyntax['path'], span: Span): LoadSyntax {
  return { kind: 'load', path, fields: null, where: null, orderBy: [], limit: null, only: null, by: null, loads: [], span };
}

/** Resolves a line `load`: one load, or one for each entity that a polymorphic role leads to. */
export function resolveLoad(context: Context, entity: EntityDraft, syntax: LoadSyntax): Load[] {
  const steps = stepsOf(syntax.path);
  if (steps !== null) return loadStep(context, entity, steps, syntax);
  wrong(
    context.resolution,
    'load-from-row',
    syntax.path.span,
    `${context.label}: what is loaded stands behind a role of each row, as in “load ${entity.roles[0]?.name ?? 'borrower'}”. Ask for one row in a query of its own.`,
  );
  return [];
}

type LoadStep = LoadSyntax['path']['steps'][number] | { readonly kind: 'cast'; readonly entity: Name };

/** A load's path, one after the other: roles, conditions, and the kinds that rows are narrowed to. */
function stepsOf({ root, steps }: LoadSyntax['path']): LoadStep[] | null {
  if (root.kind === 'name') return [{ kind: 'member', name: root.name, span: root.span }, ...steps];
  if (root.kind !== 'cast') return null;
  const inner = stepsOf(root.path);
  return inner === null ? null : [...inner, { kind: 'cast', entity: root.entity }, ...steps];
}

function loadStep(context: Context, entity: EntityDraft, steps: readonly LoadStep[], syntax: LoadSyntax): Load[] {
  const { resolution, label } = context;
  const [first, ...behind] = steps;
  if (first?.kind !== 'member') return [];
  const member = memberOf(resolution, entity, first.name);
  if (member === null) {
    const known = [...entity.roles, ...entity.polymorphic].map((role) => role.name);
    unknownMember(resolution, entity, first.name, label, `role of ${entity.name} called`, known);
    return [];
  }
  if (member.kind !== 'role' && member.kind !== 'polymorphic') {
    wrong(
      resolution,
      'not-a-role',
      first.name.span,
      `${label}: ${entity.name}.${first.name.text} is a ${told(member)}; only related rows are loaded.`,
    );
    return [];
  }
  const branch = member.kind === 'polymorphic';
  const next = behind[0];
  const cast = next?.kind === 'cast' ? next.entity : null;
  const roles = cast === null ? (branch ? member.role.branches : [member.role]) : castRoles(context, member, cast);
  const rest = cast === null ? behind : behind.slice(1);
  return roles.flatMap((role) => loadOver(context, role, branch, rest, syntax) ?? []);
}

function castRoles(context: Context, member: Extract<Member, { kind: 'role' | 'polymorphic' }>, name: Name): Role[] {
  const { resolution, label } = context;
  const kind = findEntity(resolution, name, label);
  if (kind === null) return [];
  const role = member.kind === 'polymorphic' ? branchTo(resolution, member.role, kind) : narrowTo(member.role, kind);
  if (role !== null) return [role];
  const known = member.kind === 'polymorphic' ? member.role.branches.map(({ target }) => target) : [member.role.target];
  wrong(resolution, 'never-a-kind', name.span, `${label}: no ${known.join(' or ')} is ${withArticle(kind.name)}.`);
  return [];
}

function loadOver(context: Context, role: Role, branch: boolean, steps: readonly LoadStep[], syntax: LoadSyntax): Load[] {
  const { resolution } = context;
  const target = resolution.entities.get(role.target);
  if (target === undefined) return [];
  const pivot = pivotBehind(resolution, role);
  const inner: Context = { ...context, entity: target, pivot };
  const filters: Expression[] = [];
  const behind = [...steps];
  while (behind[0]?.kind === 'filter') {
    const filter = resolveCondition(inner, behind[0].condition);
    if (filter !== null) filters.push(filter);
    behind.shift();
  }
  if (behind.length > 0) {
    const loads = loadStep(inner, target, behind, syntax);
    const through = {
      fields: null,
      pivotFields: null,
      where: conjunction(filters),
      orderBy: [],
      limit: null,
      only: null,
      by: null,
      span: syntax.span,
    };
    return loads.length === 0 ? [] : [{ role, branch, ...through, loads: merged(resolution, loads) }];
  }
  const where = syntax.where === null ? null : resolveCondition(inner, syntax.where);
  if (where !== null) filters.push(where);
  const { fields, pivotFields } = resolveFields(inner, target, pivot, syntax);
  return [
    {
      role,
      branch,
      fields,
      pivotFields,
      where: conjunction(filters),
      orderBy: resolveOrder(inner, syntax.orderBy),
      limit: syntax.only === null ? resolveLoadLimit(inner, role, syntax) : limitOf(syntax.only, syntax.span),
      only: syntax.only === null ? null : resolveOnly(inner, role, branch, syntax),
      by: syntax.by,
      loads: merged(
        resolution,
        syntax.loads.flatMap((load) => resolveLoad(inner, target, load)),
      ),
      span: syntax.span,
    },
  ];
}

/** How many rows of each owner; a to-one role leads to one at most. */
function resolveLoadLimit(context: Context, role: Role, { limit }: LoadSyntax): Expression | null {
  if (limit === null) return null;
  if (role.knows === 'many') return resolveAmount(context, 'limit of a load', limit);
  return wrong(
    context.resolution,
    'load-limit',
    limit.span,
    `${context.label}: ${role.name} leads to one row at most. Remove the limit.`,
  );
}

/** As many rows as tell what is wanted: the first, or whether there is more than one. */
function limitOf(only: 'first' | 'one', span: Span): Expression {
  return { kind: 'value', value: only === 'first' ? '1' : '2', type: { kind: 'integer' }, span };
}

/** One row of each owner is asked for where there may be several. */
function resolveOnly(context: Context, role: Role, branch: boolean, { only, path, span }: LoadSyntax): Load['only'] {
  const several = branch && path.root.kind !== 'cast';
  if (role.knows === 'many' && !several) return only;
  const why = several ? 'leads to rows of several entities. Name one of them, as in “load (… as …)”' : 'leads to one row already';
  return wrong(context.resolution, 'load-only', span, `${context.label}: ${role.name} ${why}. Remove “${only}”.`);
}

function resolveFields(
  context: Context,
  target: EntityDraft,
  pivot: AnyPivotRelation | null,
  syntax: LoadSyntax,
): Pick<Load, 'fields' | 'pivotFields'> {
  if (syntax.fields === null) return { fields: null, pivotFields: null };
  const fields: string[] = [];
  const pivotFields: string[] = [];
  for (const path of syntax.fields) {
    const [step] = path.steps;
    if (path.root.kind !== 'name') {
      wrong(context.resolution, 'load-field', path.span, `${context.label}: name fields of ${target.name} here.`);
    } else if (step !== undefined) {
      const field =
        step.kind === 'member' && path.root.name.text === pivot?.table.value.name
          ? pivot.fields.find((candidate) => candidate.name === step.name.text)
          : undefined;
      if (field !== undefined && step?.kind === 'member') {
        if (pivot !== null) refer(context.resolution.references, step.name, 'pivot field', pivot.name);
        pivotFields.push(field.name);
      } else
        wrong(
          context.resolution,
          'load-field',
          path.span,
          `${context.label}: ${target.name} has no such field. To take a field of a related row, load that role below this line.`,
        );
    } else {
      const { name } = path.root;
      const member = memberOf(context.resolution, target, name);
      if (member?.kind === 'field' || member?.kind === 'derived') fields.push(name.text);
      else if (member === null)
        unknownMember(
          context.resolution,
          target,
          name,
          context.label,
          `field of ${target.name} called`,
          memberNames(context.resolution, target),
        );
      else
        wrong(
          context.resolution,
          'load-field',
          name.span,
          `${context.label}: ${target.name}.${name.text} is a ${told(member)}. Load it on a line of its own.`,
        );
    }
  }
  return { fields, pivotFields };
}

function conjunction(conditions: readonly Expression[]): Expression | null {
  return conditions.length === 0
    ? null
    : conditions.reduce((left, right) => ({
        kind: 'binary',
        operator: 'and',
        left,
        right,
        type: { kind: 'boolean' },
        span: right.span,
      }));
}

/** `load a` and `load a.b` are one load of a; two that ask for different rows of one role stay an error of the later. */
export function merged(resolution: Resolution, loads: readonly Load[]): Load[] {
  const result: Load[] = [];
  for (const load of loads) {
    const index = result.findIndex((other) => sameRows(resolution, other.role, load.role));
    const other = result[index];
    if (other === undefined) {
      result.push(load);
    } else {
      result[index] = {
        ...other,
        // Asked for whole and as a kind, the rows of all kinds are loaded.
        role: isKindOf(resolution, other.role.target, load.role.target) ? load.role : other.role,
        fields: other.fields ?? load.fields,
        pivotFields: other.pivotFields ?? load.pivotFields,
        where: other.where ?? load.where,
        orderBy: other.orderBy.length > 0 ? other.orderBy : load.orderBy,
        limit: other.limit ?? load.limit,
        only: other.only ?? load.only,
        by: other.by ?? load.by,
        loads: merged(resolution, [...other.loads, ...load.loads]),
      };
    }
  }
  return result;
}

/** Is an entity another, or a kind of it? */
function isKindOf(resolution: Resolution, name: string, base: string): boolean {
  const entity = resolution.entities.get(name);
  return entity !== undefined && lineageOf(entity).some((one) => one.name === base);
}

/** Do two loads ask for rows over one role, of one entity or of a kind of it? */
function sameRows(resolution: Resolution, one: Role, other: Role): boolean {
  const sameRole = one.name === other.name && one.span === other.span && one.relation === other.relation;
  return sameRole && (isKindOf(resolution, one.target, other.target) || isKindOf(resolution, other.target, one.target));
}
