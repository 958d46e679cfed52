import { type Expr, type Name, type Path, withArticle } from '../notation/index.js';
import { joinKey, parseWire, type ValueType, type Wire } from '../values/index.js';
import { type Context, type Member, memberNames, memberOf } from './context.js';
import { describeType } from './describe-type.js';
import {
  type EntityDraft,
  findEntity,
  lineageOf,
  notBuilt,
  type Resolution,
  scopeOwners,
  unknownMember,
  unknownName,
  wrong,
} from './draft.js';
import {
  type Expression,
  type ExpressionType,
  extentOf,
  type Hop,
  type Quantifier,
  type Role,
  someExpression,
} from './expression.js';
import { notGrouped } from './groups.js';
import type { AnyPivotRelation, DerivedField, PolymorphicRole } from './model.js';
import { refer } from './references.js';

const BOOLEAN: ValueType = { kind: 'boolean' };

/** A path where a value is meant: hops over to-one roles, and a field, role, derived field or scope at the end. */
export function resolvePathExpression(context: Context, path: Path): Expression | null {
  const { resolution, label } = context;
  const named = path.root.kind === 'name' && path.steps.length === 0 ? context.shown?.get(path.root.name.text) : undefined;
  if (named !== undefined) {
    if (path.root.kind === 'name' && context.query !== null)
      refer(resolution.references, path.root.name, 'column', context.query);
    return { ...named, span: path.span };
  }
  if (path.root.kind === 'me') return resolveMe(context, path);
  if (path.root.kind === 'row') return resolveRow(context, path);
  if (context.group !== undefined) {
    const { group: _, ...ofRow } = context;
    return resolvePathExpression(ofRow, path) === null ? null : notGrouped(context, path.span);
  }
  if (context.entity === null)
    return wrong(
      resolution,
      'no-row',
      path.span,
      `${label}: no row is at hand here, so ${path.root.kind === 'name' ? path.root.name.text : 'this'} means nothing. Write a value.`,
    );
  if (path.steps.some(({ kind }) => kind === 'filter')) return resolveFiltered(context, path);
  const names = namesOf(path);
  const pivot = path.root.kind === 'name' ? pivotField(context, names) : undefined;
  if (pivot !== undefined) return pivot;
  const start = path.root.kind === 'cast' ? castHops(context, path.root) : { entity: context.entity, hops: [] };
  if (start === null) return null;
  const end = walkOnes(context, start, names);
  if (end === null) return null;
  if (end.polymorphic !== null) {
    const { name, branches } = end.polymorphic;
    return wrong(
      resolution,
      'several-targets',
      path.span,
      `${label}: ${end.entity.name}.${name} leads to ${branches.map(({ target }) => target).join(', ')}. Say which is meant, as in “(${name} as ${branches[0]?.target ?? ''})”, or ask “is null” or “is a …”.`,
    );
  }
  if (end.rest !== null) return endOfPath(context, end.entity, end.hops, end.rest, path);
  return { kind: 'role', hops: end.hops, type: { kind: 'row', entity: end.entity.name }, span: path.span };
}

/** Whoever is at work, or a value of theirs: it is the same whatever rows are read. */
function resolveMe(context: Context, path: Path): Expression | null {
  const { resolution, label, me = null, reach } = context;
  if (reach !== 'all')
    return wrong(resolution, 'out-of-reach', path.span, `${label}: it holds whoever is at work, so it cannot use me.`);
  if (me === null) return notBuilt(resolution, path.span, `${label} uses me`);
  const entity = resolution.actor === null ? undefined : resolution.entities.get(resolution.actor);
  if (entity === undefined)
    return wrong(
      resolution,
      'no-actor',
      path.span,
      `${label}: nobody says who “me” is. Name the entity of whoever is at work in the tree’s head, as in “actor Player”.`,
    );
  const [first, ...steps] = path.steps;
  if (first === undefined) {
    const type: ExpressionType = { kind: 'row', entity: entity.name };
    const own: Expression = { kind: 'role', hops: [], type, span: path.span };
    return me === 'at hand' ? own : { kind: 'me', name: 'me', value: own, type, span: path.span };
  }
  if (first.kind !== 'member')
    return wrong(resolution, 'filtered-row', first.span, `${label}: me is one row, so that nothing is sought among it.`);
  const { group: _group, shown: _shown, lists: _lists, ...around } = context;
  const own: Context = { ...around, entity, pivot: null, parameters: new Map(), query: null };
  const value = resolvePathExpression(own, { ...path, root: { kind: 'name', name: first.name, span: first.name.span }, steps });
  if (value === null || me === 'at hand') return value;
  const name = ['me', ...namesOf(path).map(({ text }) => text)].join('.');
  return { kind: 'me', name, value, type: value.type, span: path.span };
}

/** The names of a path, one after the other, without what stands in its brackets. */
function namesOf({ root, steps }: Path): Name[] {
  const behind = steps.flatMap((step) => (step.kind === 'member' ? [step.name] : []));
  return root.kind === 'name' ? [root.name, ...behind] : behind;
}

/** `borrower[steward].name`: the value behind the path where each condition on the way holds of its row; else nothing. */
function resolveFiltered(context: Context, path: Path): Expression | null {
  const plain = resolvePathExpression(context, { ...path, steps: path.steps.filter(({ kind }) => kind === 'member') });
  if (plain === null) return null;
  if (plain.type.kind === 'row') return filteredRow(context, path);
  const conditions: Expression[] = [];
  for (const [index, step] of path.steps.entries()) {
    if (step.kind !== 'filter') continue;
    const before = { ...path, steps: path.steps.slice(0, index).filter(({ kind }) => kind === 'member') };
    const there = walkTo(context, before);
    if (there === null) return null;
    const condition = context.reading.condition({ ...context, entity: there.entity, pivot: null }, step.condition);
    if (condition === null) return null;
    conditions.push({
      kind: 'named',
      name: 'condition',
      hops: there.hops,
      expression: condition,
      type: BOOLEAN,
      span: step.span,
    });
  }
  const when = conditions.reduce((left, right) => ({
    kind: 'binary',
    operator: 'and',
    left,
    right,
    type: BOOLEAN,
    span: path.span,
  }));
  return { kind: 'case', branches: [{ when, then: plain }], otherwise: null, type: plain.type, span: path.span };
}

/** A row behind a condition is asked about, and is no value of its own. */
function filteredRow({ resolution, label }: Context, { span, steps }: Path): null {
  const filter = steps.find(({ kind }) => kind === 'filter');
  return wrong(
    resolution,
    'filtered-row',
    filter?.span ?? span,
    `${label}: a row with a condition is asked for by any( ), as in “any(borrower[steward])”; a value behind it may be named, as in “borrower[steward].name”.`,
  );
}

/** Where to-one hops lead: an entity, or a polymorphic role of it, or a member that is no role. */
interface Walked {
  readonly entity: EntityDraft;
  readonly hops: readonly Role[];
  readonly polymorphic: PolymorphicRole | null;
  /** The member at the end that is no role. */
  readonly rest: Name | null;
}

type Start = Pick<Walked, 'entity' | 'hops'>;

/** To-one hops over these names; null, with a finding, where one of them is none. */
function walkOnes(context: Context, start: Start, names: readonly Name[]): Walked | null {
  const { resolution, label } = context;
  let entity = start.entity;
  const hops = [...start.hops];
  for (const [index, name] of names.entries()) {
    const last = index === names.length - 1;
    const member = memberOf(resolution, entity, name);
    if (member === null) return missingMember(context, entity, name);
    const walks = member.kind === 'role' || member.kind === 'scope' || member.kind === 'polymorphic';
    if (context.reach !== 'all' && (walks || (context.reach === 'row' && member.kind === 'derived'))) {
      const allowed = context.reach === 'row' ? 'only the row’s own stored fields. Make it a rule' : 'only fields of its own row';
      return wrong(
        resolution,
        'out-of-reach',
        name.span,
        `${label}: ${name.text} is a ${told(member)}, and this may use ${allowed}.`,
      );
    }
    if (member.kind === 'field' || member.kind === 'derived' || member.kind === 'scope') {
      if (last) return { entity, hops, polymorphic: null, rest: name };
      return wrong(
        resolution,
        'nothing-behind',
        names[index + 1]?.span ?? name.span,
        `${label}: ${entity.name}.${name.text} is a ${told(member)}; nothing stands behind it.`,
      );
    }
    if (member.role.knows === 'many') {
      return wrong(
        resolution,
        'to-many-path',
        name.span,
        `${label}: ${entity.name} knows many as ${name.text}, so it stands inside any( ), none( ), all( ) or count( ), as in “any(${name.text})”.`,
      );
    }
    if (member.kind === 'polymorphic') {
      if (last) return { entity, hops, polymorphic: member.role, rest: null };
      const target = member.role.branches[0]?.target ?? '';
      return wrong(
        resolution,
        'several-targets',
        name.span,
        `${label}: ${entity.name}.${name.text} leads to ${member.role.branches.map((branch) => branch.target).join(', ')}. Say which is meant, as in “(${name.text} as ${target}).${names[index + 1]?.text ?? ''}”.`,
      );
    }
    hops.push(member.role);
    const next = resolution.entities.get(member.role.target);
    if (next === undefined) return null;
    entity = next;
  }
  return { entity, hops, polymorphic: null, rest: null };
}

/** The word for a member in messages. */
export function told(member: Member): string {
  switch (member.kind) {
    case 'derived':
      return 'derived field';
    case 'polymorphic':
      return 'role';
    default:
      return member.kind;
  }
}

/** `(subject as Ensemble)`: the hops to rows of that entity alone. */
function castHops(context: Context, root: Extract<Path['root'], { kind: 'cast' }>): Start | null {
  const { resolution, label } = context;
  const entity = findEntity(resolution, root.entity, label);
  const walked = entity === null ? null : walkTo(context, root.path);
  if (entity === null || walked === null) return null;
  const last = walked.hops.at(-1);
  if (walked.polymorphic === null && last === undefined) return null;
  const narrowed = walked.polymorphic === null ? narrowTo(last, entity) : branchTo(resolution, walked.polymorphic, entity);
  if (narrowed === null) {
    const known = walked.polymorphic?.branches.map(({ target }) => target) ?? [last?.target ?? ''];
    return wrong(
      resolution,
      'never-a-kind',
      root.entity.span,
      `${label}: no ${known.join(' or ')} is ${withArticle(entity.name)}.${walked.polymorphic === null ? ` Name a kind of ${known[0]}.` : ''}`,
    );
  }
  return { entity, hops: [...(walked.polymorphic === null ? walked.hops.slice(0, -1) : walked.hops), narrowed] };
}

/** A path of to-one hops, with casts in it, to a row or a polymorphic role. */
export function walkTo(context: Context, path: Path): Walked | null {
  const { resolution, label } = context;
  if (context.entity === null) return null;
  const filter = path.steps.find(({ kind }) => kind === 'filter');
  if (filter !== undefined) return filteredRow(context, path);
  const names = namesOf(path);
  if (path.root.kind !== 'name' && path.root.kind !== 'cast')
    return notBuilt(resolution, path.span, `${label} walks from a row that it names`);
  const start = path.root.kind === 'cast' ? castHops(context, path.root) : { entity: context.entity, hops: [] };
  const walked = start === null ? null : walkOnes(context, start, names);
  if (walked?.rest == null) return walked;
  return wrong(
    resolution,
    'not-a-role',
    walked.rest.span,
    `${label}: ${walked.entity.name}.${walked.rest.text} is no role, and rows are meant here.`,
  );
}

/** Does a path end at a polymorphic role? Nothing is told of what is wrong with it. */
export function endsInSeveral(context: Context, path: Path): boolean {
  const quiet: Context = { ...context, resolution: { ...context.resolution, findings: [], references: new Map() } };
  return context.entity !== null && path.steps.every(({ kind }) => kind === 'member') && walkTo(quiet, path)?.polymorphic != null;
}

/** A role to rows of one kind only. */
export function narrowTo(role: Role | undefined, entity: EntityDraft): Role | null {
  if (role === undefined || !lineageOf(entity).some(({ name }) => name === role.target)) return null;
  return { ...role, target: entity.name, knows: role.knows === 'many' ? 'many' : 'at most one' };
}

/** The branch of a polymorphic role that leads to an entity: to it, or to a base of it and then to it alone. */
export function branchTo(resolution: Resolution, role: PolymorphicRole, entity: EntityDraft): Role | null {
  for (const branch of role.branches) {
    const narrowed = narrowTo(branch, entity);
    if (narrowed === null || branch.target === entity.name) {
      if (narrowed !== null) return narrowed;
      continue;
    }
    // Where each kind has a mark of its own, that tells the kind.
    const { way } = narrowed;
    if ((way.kind === 'key' || way.kind === 'pivot') && way.mark !== null && entity.kinds?.storage.kind === 'separate tables') {
      const marks = resolution.marks.get(role.relation);
      const values = entity.kinds.concrete.flatMap((kind) => marks?.get(kind.entity) ?? []);
      return { ...narrowed, way: { ...way, mark: { ...way.mark, values } } };
    }
    return narrowed;
  }
  return null;
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
      if (condition === null) return null;
      if ((context.me ?? null) === null && someExpression(condition, ({ kind }) => kind === 'me'))
        return wrong(
          context.resolution,
          'out-of-reach',
          name.span,
          `${context.label}: scope ${name.text} asks who is at work, and this is the same whoever that is. Name it in a query or a wall.`,
        );
      return { kind: 'named', name: name.text, hops, expression: condition, type: BOOLEAN, span: path.span };
    }
    default:
      return null;
  }
}

/** The derived field of this name; null, with a finding, where it is wrong or stands on itself. */
export function resolveDerived(context: Context, reader: EntityDraft, name: Name): DerivedField | null {
  const declares = ({ lines }: EntityDraft) => lines.some((line) => line.kind === 'derived' && line.name.text === name.text);
  const entity = lineageOf(reader).find(declares) ?? reader;
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
  if (context.resolving.length > MOST_NAMES_DEEP)
    return wrong(context.resolution, 'too-deep', name.span, `${step} stands on too many others, one on the other, to follow.`);
  const expression = context.reading.expression(
    {
      ...context,
      entity,
      pivot: null,
      parameters: new Map(),
      label: step,
      reach: 'all',
      me: null,
      resolving: [...context.resolving, step],
    },
    line.expression,
  );
  const tooLarge = expression !== null && isTooLarge(context.resolution, expression, step, name);
  const derived =
    expression === null || tooLarge
      ? null
      : { name: name.text, expression, type: expression.type, note: line.note?.value ?? null, span: line.span };
  entity.derived.set(name.text, derived);
  return derived;
}

/** How many names may stand on each other, and how many parts they may come to: each is written out where it is used. */
const MOST_NAMES_DEEP = 60;
const MOST_PARTS = 20_000;

function isTooLarge(resolution: Resolution, expression: Expression, step: string, name: Name): boolean {
  const { parts, names } = extentOf(expression);
  if (names <= MOST_NAMES_DEEP && parts <= MOST_PARTS) return false;
  const why =
    names > MOST_NAMES_DEEP
      ? `stands on more than ${MOST_NAMES_DEEP} others, one on the other`
      : `comes to more than ${MOST_PARTS.toLocaleString('en')} parts once all that it stands on is written out`;
  wrong(resolution, 'too-deep', name.span, `${step} ${why}, and is left out. State it in fewer steps.`);
  return true;
}

/** The condition of a scope for an entity; null, with a finding, where it is wrong or stands on itself. */
export function resolveScopeFor(context: Context, entity: EntityDraft, name: Name): Expression | null {
  const { resolution } = context;
  const done = resolution.scopes.get(name.text)?.conditions.get(entity.name);
  if (done !== undefined) return done;
  const lines = resolution.scopeLines.get(name.text);
  const owner = scopeOwners(entity).find((candidate) => lines?.has(candidate));
  const line = owner === undefined ? undefined : lines?.get(owner);
  if (line === undefined) return null;
  const step = `scope ${name.text} of ${entity.name}`;
  if (resolution.counts.wrongScopes.has(step))
    return wrong(resolution, 'left-out', name.span, `${context.label}: ${step} is left out, for an error of its own.`);
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
    me: 'bound',
    resolving: [...context.resolving, step],
  };
  const resolved = context.reading.condition(inner, line.condition);
  const condition = resolved !== null && isTooLarge(resolution, resolved, step, name) ? null : resolved;
  const scope = resolution.scopes.get(name.text);
  if (condition === null) resolution.counts.wrongScopes.add(step);
  else if (scope !== undefined) (scope.conditions as Map<string, Expression>).set(entity.name, condition);
  return condition;
}

function pivotField(context: Context, names: readonly Name[]): Expression | null | undefined {
  const { pivot } = context;
  const [table, name] = names;
  if (pivot === null || table === undefined || table.text !== pivot.table.value.name) return undefined;
  refer(context.resolution.references, table, 'pivot');
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
  refer(context.resolution.references, name, 'pivot field', pivot.name);
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
  if (context.group !== undefined) return notGrouped(context, expr.span);
  const [arg, ...more] = expr.args;
  if (expr.star)
    return wrong(
      resolution,
      'quantifier-path',
      expr.span,
      `${label}: ${quantifier}(*) counts the rows of a group, in “show”, “having” or “order by” of a query of groups. To count related rows, name their role, as in “${quantifier}(loans)”.`,
    );
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
  const ways = walk(context, path);
  if (ways === null) return null;
  const made = ways.map((walked) => quantified(context, expr, quantifier, walked));
  const parts = made.filter((part) => part !== null);
  if (parts.length < made.length) return null;
  // Over a polymorphic role each entity is asked about for itself.
  const operator = quantifier === 'any' ? 'or' : quantifier === 'count' ? '+' : 'and';
  const type = quantifierType(quantifier);
  return parts.reduce((left, right) => ({ kind: 'binary', operator, left, right, type, span: expr.span }));
}

function quantifierType(quantifier: Quantifier): ValueType {
  return quantifier === 'count' ? { kind: 'bigint' } : BOOLEAN;
}

function quantified(
  context: Context,
  expr: Extract<Expr, { kind: 'call' }>,
  quantifier: Quantifier,
  walked: readonly Hop[],
): Expression | null {
  const hops = [...walked];
  let test: Expression | null = null;
  if (quantifier === 'all') {
    const last = hops.pop();
    if (last === undefined || last.filter === null)
      return wrong(
        context.resolution,
        'all-without-test',
        expr.span,
        `${context.label}: all( ) needs a condition to test, as in “all(loans[returned_on is not null])”.`,
      );
    test = last.filter;
    hops.push({ role: last.role, filter: null });
  }
  return { kind: 'quantified', quantifier, hops, test, type: quantifierType(quantifier), span: expr.span };
}

/** The entity that hops lead to. */
export function ends(resolution: Resolution, hops: readonly Hop[]): EntityDraft | null {
  return resolution.entities.get(hops.at(-1)?.role.target ?? '') ?? null;
}

/**
 * A path over roles to entities, each hop with the conditions behind it. Over a polymorphic role it goes on as several,
 * one for each entity, each with what that one makes of the names behind.
 */
export function walk(context: Context, path: Path): (readonly Hop[])[] | null {
  const { entity } = context;
  if (entity === null || (path.root.kind !== 'name' && path.root.kind !== 'cast')) return null;
  if (path.root.kind === 'cast') {
    const inner = walkWays(context, path.root.path);
    const kind = inner === null ? null : findEntity(context.resolution, path.root.entity, context.label);
    if (inner === null || kind === null) return null;
    const narrowed = inner.flatMap((way) => {
      const last = way.at(-1);
      const role = last === undefined ? null : narrowTo(last.role, kind);
      return role === null || last === undefined ? [] : [[...way.slice(0, -1), { ...last, role }]];
    });
    if (narrowed.length === 0) {
      return wrong(
        context.resolution,
        'never-a-kind',
        path.root.entity.span,
        `${context.label}: none of the rows there is ${withArticle(kind.name)}.`,
      );
    }
    return stepOn(context, narrowed, path.steps);
  }
  return walkWays(context, path);
}

function walkWays(context: Context, path: Path): (readonly Hop[])[] | null {
  if (path.root.kind === 'cast') return walk(context, path);
  if (path.root.kind !== 'name') return null;
  return stepOn(context, [[]], [{ kind: 'member', name: path.root.name, span: path.root.span }, ...path.steps]);
}

function stepOn(context: Context, start: readonly (readonly Hop[])[], steps: Path['steps']): (readonly Hop[])[] | null {
  let ways: readonly (readonly Hop[])[] = start;
  for (const step of steps) {
    const next: (readonly Hop[])[] = [];
    for (const way of ways) {
      const gone = step.kind === 'member' ? stepOver(context, way, step.name) : filtered(context, way, step.condition);
      if (gone === null) return null;
      next.push(...gone);
    }
    ways = next;
  }
  return [...ways];
}

function stepOver(context: Context, way: readonly Hop[], name: Name): (readonly Hop[])[] | null {
  const { resolution, label } = context;
  const entity = way.length === 0 ? context.entity : ends(resolution, way);
  if (entity === null) return null;
  const member = memberOf(resolution, entity, name);
  if (member === null) return missingMember(context, entity, name);
  if (member.kind === 'polymorphic') return member.role.branches.map((role) => [...way, { role, filter: null }]);
  if (member.kind === 'role') return [[...way, { role: member.role, filter: null }]];
  return wrong(
    resolution,
    'not-a-role',
    name.span,
    `${label}: ${entity.name}.${name.text} is a ${told(member)}, where a role is meant.`,
  );
}

function filtered(context: Context, way: readonly Hop[], condition: Expr): (readonly Hop[])[] | null {
  const { resolution } = context;
  const last = way.at(-1);
  const entity = ends(resolution, way);
  if (last === undefined || entity === null) return null;
  const filter = context.reading.condition({ ...context, entity, pivot: pivotBehind(resolution, last.role) }, condition);
  if (filter === null) return null;
  const both: Expression =
    last.filter === null
      ? filter
      : { kind: 'binary', operator: 'and', left: last.filter, right: filter, type: BOOLEAN, span: filter.span };
  return [[...way.slice(0, -1), { ...last, filter: both }]];
}

/** The pivot that a role leads over, or null where a key column stores it. */
export function pivotBehind(resolution: Resolution, role: Role | undefined): AnyPivotRelation | null {
  return role === undefined || role.way.kind !== 'pivot' ? null : (resolution.pivots.get(role.relation) ?? null);
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
