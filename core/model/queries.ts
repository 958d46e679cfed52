import {
  type LoadSyntax,
  type Name,
  type ParameterSyntax,
  parseQuery,
  type QueryLine,
  type Span,
  withArticle,
} from '../notation/index.js';
import { resolveOrder } from './constraints.js';
import type { Context } from './context.js';
import { type Member, memberNames, memberOf } from './context.js';
import { type EntityDraft, findEntity, lineageOf, notBuilt, type Resolution, unknownMember, wrong } from './draft.js';
import type { Expression, ExpressionType, Order, Role } from './expression.js';
import { fitTo, reading, resolveCondition, resolveExpression } from './expressions.js';
import { resolveType } from './fields.js';
import type { AnyPivotRelation, Cardinality, Load, Parameter, Query } from './model.js';
import { branchTo, narrowTo, pivotBehind, told } from './paths.js';
import { refer } from './references.js';

interface QueryParts {
  readonly name: Name | null;
  readonly parameters: readonly ParameterSyntax[];
  readonly lines: readonly QueryLine[];
  readonly span: Span;
}

/**
 * A query with its names resolved. Null, with a finding, where any of its lines is wrong: half a query would answer
 * something that nobody asked.
 */
export function resolveQuery(resolution: Resolution, syntax: QueryParts): Query | null {
  const label = syntax.name === null ? 'the query' : `query ${syntax.name.text}`;
  const before = resolution.findings.length;
  const unbuilt = syntax.lines.find((line) => ['show', 'group by', 'having', 'exists', 'reads', 'lift'].includes(line.kind));
  if (unbuilt !== undefined) return notBuilt(resolution, unbuilt.span, `${label} says ${unbuilt.kind}`);
  const parameters = syntax.parameters.flatMap((parameter) => resolveParameter(resolution, parameter, label) ?? []);
  if (syntax.name !== null)
    for (const { name } of syntax.parameters) refer(resolution.references, name, 'parameter', syntax.name.text, true);
  const froms = syntax.lines.filter((line) => line.kind === 'from');
  const from = froms[0];
  if (from === undefined || froms.length > 1) {
    return wrong(
      resolution,
      'query-from',
      froms[1]?.span ?? syntax.name?.span ?? syntax.span,
      `${label} needs one line “from”, and has ${froms.length === 0 ? 'none' : froms.length}.`,
    );
  }
  const entity = findEntity(resolution, from.entity, label);
  if (entity === null) return null;
  const context: Context = {
    resolution,
    reading,
    entity,
    pivot: null,
    label,
    reach: 'all',
    resolving: [],
    parameters: new Map(parameters.map((parameter) => [parameter.name, parameter.type])),
    query: syntax.name?.text ?? null,
  };
  const where: Expression[] = [];
  const loads: Load[] = [];
  let orderBy: Order[] = [];
  let limit: Expression | null = null;
  let offset: Expression | null = null;
  let cardinality: Cardinality = 'many';
  let note: string | null = null;
  for (const line of syntax.lines) {
    switch (line.kind) {
      case 'where': {
        const condition = resolveCondition(context, line.condition);
        if (condition !== null) where.push(condition);
        break;
      }
      case 'load': {
        loads.push(...resolveLoad(context, entity, line));
        break;
      }
      case 'order by':
        orderBy = [...orderBy, ...resolveOrder(context, line.terms)];
        break;
      case 'limit':
      case 'offset': {
        if ((line.kind === 'limit' ? limit : offset) !== null)
          wrong(resolution, 'said-twice', line.span, `${label} says ${line.kind} twice. Keep one of the two.`);
        const amount = resolveAmount(context, line.kind, line.amount);
        if (line.kind === 'limit') limit = amount;
        else offset = amount;
        break;
      }
      case 'first':
      case 'one':
      case 'count':
        if (cardinality !== 'many')
          wrong(resolution, 'two-answers', line.span, `${label} says ${cardinality} and ${line.kind}. Keep one of the two.`);
        cardinality = line.kind;
        break;
      case 'note':
        note = line.text.value;
        break;
      default:
    }
  }
  const failed = resolution.findings
    .slice(before)
    .some((finding) => finding.weight === 'error' || finding.code === 'not-built-yet' || finding.code === 'left-out');
  if (failed) return null;
  return {
    name: syntax.name?.text ?? null,
    entity: entity.name,
    parameters,
    where,
    orderBy,
    limit,
    offset,
    loads: merged(resolution, loads),
    cardinality,
    note,
    span: syntax.span,
  };
}

/** The text of a query without a head, resolved beside a model's own declarations. */
export function resolveQueryText(resolution: Resolution, text: string, parameters: readonly ParameterSyntax[]): Query | null {
  const syntax = parseQuery(text);
  for (const finding of syntax.findings) resolution.findings.push(finding);
  const query = resolveQuery(resolution, { name: null, parameters, lines: syntax.lines, span: { start: 0, end: text.length } });
  return syntax.findings.some((finding) => finding.weight === 'error') ? null : query;
}

function resolveParameter(resolution: Resolution, parameter: ParameterSyntax, label: string): Parameter | null {
  const { name, type, optional } = parameter;
  if (type.kind === 'named' && !resolution.choices.has(type.name.text)) {
    const entity = findEntity(resolution, type.name, label);
    return entity === null ? null : { name: name.text, type: { kind: 'row', entity: entity.name }, optional };
  }
  const resolved = resolveType(resolution, type);
  return resolved === null ? null : { name: name.text, type: resolved, optional };
}

function resolveAmount(context: Context, kind: string, amount: Parameters<typeof resolveExpression>[1]): Expression | null {
  const expression = resolveExpression({ ...context, entity: null, label: `${context.label}, ${kind}` }, amount);
  if (expression === null) return null;
  const wanted: ExpressionType = { kind: 'integer' };
  if (expression.kind === 'value' && /^\d+$/.test(String(expression.value))) {
    if (String(expression.value).length < 19) return expression;
    return wrong(
      context.resolution,
      'amount',
      amount.span,
      `${context.label}: no engine counts as far as this ${kind}. Write less.`,
    );
  }
  if (expression.kind === 'parameter' && (expression.type.kind === 'integer' || expression.type.kind === 'bigint'))
    return fitTo(context, expression, wanted);
  return wrong(
    context.resolution,
    'amount',
    amount.span,
    `${context.label}: ${kind} is a whole number or a parameter of type integer.`,
  );
}

/** Resolves a line `load`: one load, or one for each entity that a polymorphic role leads to. */
export function resolveLoad(context: Context, entity: EntityDraft, syntax: LoadSyntax): Load[] {
  const { resolution, label } = context;
  const unbuilt =
    syntax.limit !== null ? 'limits a load' : syntax.by !== null && syntax.by !== 'batch' ? `loads by ${syntax.by}` : null;
  const steps = stepsOf(syntax.path);
  if (unbuilt !== null) notBuilt(resolution, syntax.span, `${label} ${unbuilt}`);
  else if (steps === null) notBuilt(resolution, syntax.path.span, `${label} loads from a row that it names`);
  return unbuilt !== null || steps === null ? [] : loadStep(context, entity, steps, syntax);
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
    const through = { fields: null, pivotFields: null, where: conjunction(filters), orderBy: [], span: syntax.span };
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
      loads: merged(
        resolution,
        syntax.loads.flatMap((load) => resolveLoad(inner, target, load)),
      ),
      span: syntax.span,
    },
  ];
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
function merged(resolution: Resolution, loads: readonly Load[]): Load[] {
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
