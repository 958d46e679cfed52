import type { Expr, Name, Path, Span } from '../notation/index.js';
import type { ActorName } from './actors.js';
import type { CommandRows } from './command.js';
import { type Context, memberOf } from './context.js';
import { type EntityDraft, findEntity, type Resolution, unknownMember, wrong } from './draft.js';
import type { Expression, Role } from './expression.js';
import { reading, resolveCondition, resolveExpression } from './expressions.js';
import { isOfOne } from './found-rows.js';
import { plainLoad, resolveLoad } from './loads.js';
import type { Query } from './model.js';
import { told } from './paths.js';
import { queryOf } from './plain-query.js';

/** The state while commands are resolved, line by line. */
export interface Commands {
  readonly resolution: Resolution;
  /** The entities of the rows that lines before have named. */
  readonly named: Map<string, string>;
  readonly label: string;
  /** The query for all rows of each entity, which all commands that name a row of it by its key have in common. */
  readonly whole: Map<string, Query>;
  /** On whose behalf the lines are that come next; null where nobody has said so. */
  actor: ActorName | null;
}

/** Where the expressions of commands stand: they see the names of an entity, where a row of it is at hand. */
export function contextOf({ resolution, label }: Commands, entity: EntityDraft | null): Context {
  return {
    resolution,
    reading,
    entity,
    pivot: null,
    parameters: new Map(),
    query: null,
    label,
    reach: 'all',
    me: 'bound',
    resolving: [],
  };
}

/** The one role that a name leads over. */
export function roleOf(commands: Commands, entity: EntityDraft, name: Name): Role | null {
  const { resolution, label } = commands;
  const member = memberOf(resolution, entity, name);
  const known = [...entity.roles, ...entity.polymorphic].map((role) => role.name);
  if (member === null) return unknownMember(resolution, entity, name, label, `role of ${entity.name} called`, known);
  if (member.kind === 'role') return member.role;
  if (member.kind === 'polymorphic')
    return wrong(
      resolution,
      'which-kind',
      name.span,
      `${label}: ${entity.name}.${name.text} leads to rows of ${member.role.branches.map(({ target }) => target).join(', ')}. Make the row first, and set the role to it.`,
    );
  return wrong(
    resolution,
    'not-a-role',
    name.span,
    `${label}: ${entity.name}.${name.text} is a ${told(member)}, and leads to no rows.`,
  );
}

/** A role, where a row of this entity can stand behind it. */
export function leadingTo(role: Role, entity: EntityDraft): Role | null {
  return leadingUp(entity, role.target) === null ? null : role;
}

/** An entity of this name, itself or a base above it; null where there is none. */
function leadingUp(entity: EntityDraft, name: string): EntityDraft | null {
  if (entity.name === name) return entity;
  return entity.base === null ? null : leadingUp(entity.base, name);
}

/** The rows that a path of the text means. */
export function resolveRows(commands: Commands, path: Path): CommandRows | null {
  const { resolution, label, named } = commands;
  const root = path.root.kind === 'me' ? meAsRow(commands, path.root.span) : path.root;
  if (root === null) return null;
  if (root.kind !== 'row')
    return wrong(resolution, 'command-target', path.span, `${label}: say which rows, as in “Player(3)” or “Loan[overdue]”.`);
  const entity =
    path.root.kind === 'me' ? (resolution.entities.get(root.entity.text) ?? null) : findEntity(resolution, root.entity, label);
  if (entity === null) return null;
  const member = path.steps.findIndex((step) => step.kind === 'member');
  const filters = member === -1 ? path.steps : path.steps.slice(0, member);
  const steps = member === -1 ? [] : path.steps.slice(member);
  const where: Expression[] = [];
  const name = root.key?.length === 1 ? nameIn(root.key[0]) : null;
  const known = name === null ? undefined : named.get(name.text);
  const meant = known === undefined ? undefined : resolution.entities.get(known);
  if (name !== null && meant !== undefined && leadingUp(meant, entity.name) === null)
    return wrong(
      resolution,
      'type-mismatch',
      name.span,
      `${label}: ${name.text} is a row of ${meant.name}, and here one of ${entity.name} is meant.`,
    );
  let namedRow: Expression | null = null;
  if (root.key !== null) {
    const whole = path.root.kind === 'me' ? path.root : root;
    const row = resolveExpression(contextOf(commands, null), {
      kind: 'path',
      path: { root: whole, steps: [], span: root.span },
      span: root.span,
    });
    if (row === null) return null;
    namedRow = row;
  }
  for (const filter of filters) {
    const condition = filter.kind === 'filter' ? resolveCondition(contextOf(commands, entity), filter.condition) : null;
    if (condition === null) return null;
    where.push(condition);
  }
  if (root.key === null && filters.length === 0)
    return wrong(
      resolution,
      'all-rows',
      root.span,
      `${label}: this would be all rows of ${entity.name}. Say which, as in ${entity.name}(1) or ${entity.name}[…]; where all are meant, ${entity.name}[true].`,
    );
  const loads = walkOf(commands, entity, steps);
  if (loads === null) return null;
  const walked = walkedBy(loads);
  const one = root.key !== null && filters.length === 0 && walked.every((load) => load.role.knows !== 'many');
  return {
    entity: walked.at(-1)?.role.target ?? entity.name,
    row: namedRow,
    query:
      where.length === 0 && loads.length === 0
        ? wholeOf(commands, entity)
        : queryOf(entity.name, { where, loads, span: path.span }),
    path: walked.map(({ role }) => role.name),
    one: one || where.some((condition) => isOfOne(entity, condition) && walked.length === 0),
    span: path.span,
  };
}

/** Whoever is at work, as a row that a text names. */
function meAsRow({ resolution, label }: Commands, span: Span): Extract<Path['root'], { kind: 'row' }> | null {
  const { actor } = resolution;
  if (actor !== null) return { kind: 'row', entity: { text: actor, span }, key: [], span };
  return wrong(
    resolution,
    'no-actor',
    span,
    `${label}: nobody says who “me” is. Name the entity of whoever is at work in the tree’s head, as in “actor Player”.`,
  );
}

function wholeOf({ whole }: Commands, { name }: EntityDraft): Query {
  const query = whole.get(name) ?? queryOf(name);
  whole.set(name, query);
  return query;
}

/** The loads of what stands behind a row, role by role; empty where nothing does. */
function walkOf(commands: Commands, entity: EntityDraft, steps: Path['steps']): CommandRows['query']['loads'] | null {
  const [first, ...rest] = steps;
  if (first?.kind !== 'member') return [];
  const before = commands.resolution.findings.length;
  const span = { start: first.span.start, end: steps.at(-1)?.span.end ?? first.span.end };
  const path: Path = { root: { kind: 'name', name: first.name, span: first.name.span }, steps: rest, span };
  const loads = resolveLoad(contextOf(commands, entity), entity, plainLoad(path, span));
  return commands.resolution.findings.length > before ? null : loads;
}

/** The roles of a walk one after the other, along the first of the branches. */
function walkedBy(loads: CommandRows['query']['loads']): CommandRows['query']['loads'] {
  const [first] = loads;
  return first === undefined ? [] : [first, ...walkedBy(first.loads)];
}

function nameIn(expr: Expr | undefined): Name | null {
  const isName = expr?.kind === 'path' && expr.path.root.kind === 'name' && expr.path.steps.length === 0;
  return isName && expr.path.root.kind === 'name' ? expr.path.root.name : null;
}
