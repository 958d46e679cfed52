import type { Expr, Name, Path } from '../notation/index.js';
import { joinKey, parseWire, type ValueType, type Wire } from '../values/index.js';
import { type Context, memberNames, memberOf } from './context.js';
import { type EntityDraft, findEntity, notBuilt, type Resolution, unknownMember, unknownName, wrong } from './draft.js';
import type { Expression, ExpressionType, Hop, Quantifier } from './expression.js';
import { describeType, resolveCondition, resolveExpression } from './expressions.js';
import type { DerivedField, PivotRelation, Role } from './model.js';
import { refer } from './references.js';

const BOOLEAN: ValueType = { kind: 'boolean' };

/** A path where a value is meant: hops over to-one roles, and a field, role, derived field or scope at the end. */
export function resolvePathExpression(context: Context, path: Path): Expression | null {
  const { resolution, label } = context;
  if (path.root.kind === 'me') return notBuilt(resolution, path.span, `${label} uses me`);
  if (path.root.kind === 'cast') return notBuilt(resolution, path.span, `${label} reads a row as a kind`);
  if (path.root.kind === 'row') return resolveRow(context, path);
  if (context.entity === null)
    return wrong(
      resolution,
      'no-row',
      path.span,
      `${label}: no row is at hand here, so ${path.root.name.text} means nothing. Write a value.`,
    );
  const names: Name[] = [path.root.name];
  for (const step of path.steps) {
    if (step.kind === 'filter') return notBuilt(resolution, step.span, `${label} filters a path outside any, none, all or count`);
    names.push(step.name);
  }
  const pivot = pivotField(context, names);
  if (pivot !== undefined) return pivot;

  let entity = context.entity;
  const hops: Role[] = [];
  for (const [index, name] of names.entries()) {
    const last = index === names.length - 1;
    const member = memberOf(resolution, entity, name);
    if (member === null) return missingMember(context, entity, name);
    if (
      context.reach !== 'all' &&
      (member.kind === 'role' || member.kind === 'scope' || (context.reach === 'row' && member.kind === 'derived'))
    ) {
      const allowed = context.reach === 'row' ? 'only the row’s own stored fields. Make it a rule' : 'only fields of its own row';
      return wrong(
        resolution,
        'out-of-reach',
        name.span,
        `${label}: ${name.text} is a ${member.kind === 'derived' ? 'derived field' : member.kind}, and this may use ${allowed}.`,
      );
    }
    if (member.kind !== 'role') {
      if (!last)
        return wrong(
          resolution,
          'nothing-behind',
          names[index + 1]?.span ?? name.span,
          `${label}: ${entity.name}.${name.text} is a ${member.kind}; nothing stands behind it.`,
        );
      return endOfPath(context, entity, hops, name, path);
    }
    if (member.role.knows === 'many') {
      return wrong(
        resolution,
        'to-many-path',
        name.span,
        `${label}: ${entity.name} knows many as ${name.text}, so it stands inside any( ), none( ), all( ) or count( ), as in “any(${name.text})”.`,
      );
    }
    hops.push(member.role);
    const next = resolution.entities.get(member.role.target);
    if (next === undefined) return null;
    entity = next;
  }
  return { kind: 'role', hops, type: { kind: 'row', entity: entity.name }, span: path.span };
}

function endOfPath(context: Context, entity: EntityDraft, hops: readonly Role[], name: Name, path: Path): Expression | null {
  const { resolution } = context;
  const member = memberOf(resolution, entity, name);
  switch (member?.kind) {
    case 'field':
      return { kind: 'field', hops, entity: entity.name, field: member.field.name, type: member.field.type, span: path.span };
    case 'derived': {
      const derived = resolveDerived(context, entity, name);
      return derived === null
        ? null
        : { kind: 'named', name: name.text, hops, expression: derived.expression, type: derived.type, span: path.span };
    }
    case 'scope': {
      const condition = resolveScopeFor(context, entity, name);
      return condition === null
        ? null
        : { kind: 'named', name: name.text, hops, expression: condition, type: BOOLEAN, span: path.span };
    }
    default:
      return null;
  }
}

/** The derived field of this name; null, with a finding, where it is wrong or stands on itself. */
export function resolveDerived(context: Context, entity: EntityDraft, name: Name): DerivedField | null {
  const known = entity.derived.get(name.text);
  if (known !== undefined) return known;
  const line = entity.lines.find((candidate) => candidate.kind === 'derived' && candidate.name.text === name.text);
  if (line?.kind !== 'derived') return null;
  const step = `${entity.name}.${name.text}`;
  if (context.resolving.includes(step)) {
    return wrong(
      context.resolution,
      'derived-loop',
      name.span,
      `${step} stands on itself: ${[...context.resolving, step].join(' → ')}. Break the loop.`,
    );
  }
  const expression = resolveExpression(
    {
      ...context,
      entity,
      pivot: null,
      parameters: new Map(),
      label: step,
      reach: 'own',
      resolving: [...context.resolving, step],
    },
    line.expression,
  );
  const derived =
    expression === null
      ? null
      : { name: name.text, expression, type: expression.type, note: line.note?.value ?? null, span: line.span };
  entity.derived.set(name.text, derived);
  return derived;
}

/** The condition of a scope for an entity; null, with a finding, where it is wrong or stands on itself. */
export function resolveScopeFor(context: Context, entity: EntityDraft, name: Name): Expression | null {
  const { resolution } = context;
  const done = resolution.scopes.get(name.text)?.conditions.get(entity.name);
  if (done !== undefined) return done;
  const lines = resolution.scopeLines.get(name.text);
  const owner = [entity.name, ...entity.mixins].find((candidate) => lines?.has(candidate));
  const line = owner === undefined ? undefined : lines?.get(owner);
  if (line === undefined) return null;
  const step = `scope ${name.text} of ${entity.name}`;
  if (context.resolving.includes(step)) {
    return wrong(
      resolution,
      'scope-loop',
      name.span,
      `${step} stands on itself: ${[...context.resolving, step].join(' → ')}. Break the loop.`,
    );
  }
  if (context.resolving.length > 30)
    return wrong(resolution, 'scope-depth', name.span, `${step} stands on too many other scopes to follow.`);
  const inner: Context = {
    ...context,
    entity,
    pivot: null,
    parameters: new Map(),
    label: step,
    reach: 'all',
    resolving: [...context.resolving, step],
  };
  const condition = resolveCondition(inner, line.condition);
  const scope = resolution.scopes.get(name.text);
  if (condition !== null && scope !== undefined) (scope.conditions as Map<string, Expression>).set(entity.name, condition);
  return condition;
}

function pivotField(context: Context, names: readonly Name[]): Expression | null | undefined {
  const { pivot } = context;
  const [table, name] = names;
  if (pivot === null || table === undefined || table.text !== pivot.table.value.name) return undefined;
  if (name === undefined)
    return wrong(
      context.resolution,
      'pivot-alone',
      table.span,
      `${context.label}: say which field of ${table.text} is meant, as in “${table.text}.${pivot.fields[0]?.name ?? 'field'}”.`,
    );
  const field = pivot.fields.find((candidate) => candidate.name === name.text);
  if (field === undefined)
    return unknownName(
      context.resolution,
      name,
      `field of ${table.text} called`,
      pivot.fields.map((candidate) => candidate.name),
    );
  refer(context.resolution.references, name, 'field', `relation ${pivot.name}`);
  return {
    kind: 'pivot field',
    relation: pivot.name,
    field: field.name,
    type: field.type,
    span: { start: table.span.start, end: name.span.end },
  };
}

function resolveRow(context: Context, path: Path): Expression | null {
  const { resolution, label } = context;
  if (path.root.kind !== 'row') return null;
  const { root } = path;
  const entity = findEntity(resolution, root.entity, label);
  if (entity === null) return null;
  if (path.steps.length > 0) return notBuilt(resolution, path.span, `${label} walks on from a row`);
  const [key, ...more] = root.key ?? [];
  if (key === undefined)
    return wrong(resolution, 'row-key', root.span, `${label}: say which ${entity.name}, as in ${entity.name}(1).`);
  const type: ExpressionType = { kind: 'row', entity: entity.name };
  if (more.length === 0 && key.kind === 'path' && key.path.root.kind === 'name' && key.path.steps.length === 0) {
    refer(resolution.references, key.path.root.name, 'sample row', entity.name);
    return { kind: 'sample row', entity: entity.name, row: key.path.root.name.text, type, span: path.span };
  }
  const { fields } = entity.key;
  if (more.length + 1 !== fields.length) {
    const parts =
      fields.length === 1
        ? 'a single key, so write'
        : `a key of ${fields.length} parts (${fields.map((field) => field.name).join(', ')}), so write`;
    const values = fields.length === 1 ? 'one value' : `${fields.length} values`;
    return wrong(resolution, 'row-key', root.span, `${label}: ${entity.name} has ${parts} ${entity.name}(…) with ${values}.`);
  }
  const values: Wire[] = [];
  for (const [index, part] of [key, ...more].entries()) {
    const field = fields[index];
    const written = literalOf(part);
    if (field === undefined) return null;
    if (written === null)
      return wrong(
        resolution,
        'row-key',
        part.span,
        `${label}: the key of ${entity.name} is ${describeType(field.type)}; write it as a value.`,
      );
    const parsed = parseWire(field.type, written);
    if (!parsed.ok) return wrong(resolution, 'row-key', part.span, `${label}: ${parsed.problem}`);
    values.push(parsed.value);
  }
  return { kind: 'value', value: joinKey(entity.key.type, values), type, span: path.span };
}

/** A literal as it is written, without its quotes; null for any other expression. */
function literalOf(expr: Expr): string | null {
  if (expr.kind === 'number') return expr.text;
  if (expr.kind === 'text') return expr.value;
  return expr.kind === 'negate' && expr.operand.kind === 'number' ? `-${expr.operand.text}` : null;
}

/** `any(p)`, `none(p)`, `all(p[c])`, `count(p)`: hops over any roles, each with its filter. */
export function resolveQuantified(
  context: Context,
  expr: Extract<Expr, { kind: 'call' }>,
  quantifier: Quantifier,
): Expression | null {
  const { resolution, label } = context;
  if (context.reach !== 'all')
    return wrong(
      resolution,
      'out-of-reach',
      expr.span,
      `${label}: ${quantifier}( ) walks relations, and this may use only the row’s own fields.`,
    );
  const [arg, ...more] = expr.args;
  if (expr.star) return notBuilt(resolution, expr.span, `${label} uses count(*)`);
  if (arg?.kind !== 'path' || more.length > 0)
    return wrong(
      resolution,
      'quantifier-path',
      expr.span,
      `${label}: ${quantifier}( ) takes one path, as in “${quantifier}(loans[due_on < today])”.`,
    );
  const { path } = arg;
  if (path.root.kind === 'me' || path.root.kind === 'row')
    return notBuilt(resolution, path.span, `${label} walks from a row that it names`);
  if (path.root.kind === 'cast') return notBuilt(resolution, path.span, `${label} reads a row as a kind`);
  const walked = walk(context, path);
  if (walked === null) return null;
  const hops = [...walked];
  let test: Expression | null = null;
  if (quantifier === 'all') {
    const last = hops.pop();
    if (last === undefined || last.filter === null)
      return wrong(
        resolution,
        'all-without-test',
        expr.span,
        `${label}: all( ) needs a condition to test, as in “all(loans[returned_on is not null])”.`,
      );
    test = last.filter;
    hops.push({ role: last.role, filter: null });
  }
  const type: ValueType = quantifier === 'count' ? { kind: 'bigint' } : BOOLEAN;
  return { kind: 'quantified', quantifier, hops, test, type, span: expr.span };
}

/** A path over roles to entities, each hop with the conditions behind it. */
export function walk(context: Context, path: Path): Hop[] | null {
  const { resolution, label } = context;
  if (context.entity === null || path.root.kind !== 'name') return null;
  let entity: EntityDraft = context.entity;
  const hops: { role: Role; filter: Expression | null }[] = [];
  const step = (name: Name): boolean => {
    const member = memberOf(resolution, entity, name);
    if (member === null) {
      missingMember(context, entity, name);
      return false;
    }
    if (member.kind !== 'role') {
      wrong(
        resolution,
        'not-a-role',
        name.span,
        `${label}: ${entity.name}.${name.text} is a ${member.kind}, where a role is meant.`,
      );
      return false;
    }
    const next = resolution.entities.get(member.role.target);
    if (next === undefined) return false;
    hops.push({ role: member.role, filter: null });
    entity = next;
    return true;
  };
  if (!step(path.root.name)) return null;
  for (const part of path.steps) {
    if (part.kind === 'member') {
      if (!step(part.name)) return null;
      continue;
    }
    const hop = hops.at(-1);
    const filter = resolveCondition({ ...context, entity, pivot: pivotBehind(resolution, hop?.role) }, part.condition);
    if (filter === null || hop === undefined) return null;
    hop.filter =
      hop.filter === null
        ? filter
        : { kind: 'binary', operator: 'and', left: hop.filter, right: filter, type: BOOLEAN, span: part.span };
  }
  return hops;
}

/** The pivot that a role leads over, or null where a key column stores it. */
export function pivotBehind(resolution: Resolution, role: Role | undefined): PivotRelation | null {
  return role === undefined ? null : (resolution.pivots.get(role.relation) ?? null);
}

function missingMember(context: Context, entity: EntityDraft, name: Name): null {
  const { resolution, label } = context;
  return unknownMember(
    resolution,
    entity,
    name,
    label,
    `field, role or scope of ${entity.name} called`,
    memberNames(resolution, entity),
  );
}
