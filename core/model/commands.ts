import {
  type Assignment,
  type CommandLine,
  type CommandSyntax,
  type CommandValue,
  type Expr,
  inLines,
  type Name,
  type Path,
  parseCommands,
  type Span,
} from '../notation/index.js';
import type { Command, CommandRows, NamedCommand, NewRow, Through, WrittenValue } from './command.js';
import { type Context, memberNames, memberOf } from './context.js';
import { type EntityDraft, findEntity, notBuilt, type Resolution, unknownMember, unknownName, wrong } from './draft.js';
import type { Expression, Role } from './expression.js';
import { fitTo, reading, resolveCondition, resolveExpression } from './expressions.js';
import { isOfOne } from './found-rows.js';
import { plainLoad, resolveLoad } from './loads.js';
import type { Field, PolymorphicRole } from './model.js';
import { branchTo, told } from './paths.js';
import { queryOf } from './plain-query.js';
import { refer } from './references.js';

/** The state while commands are resolved, line by line. */
interface Commands {
  readonly resolution: Resolution;
  /** The entities of the rows that lines before have named. */
  readonly named: Map<string, string>;
  readonly label: string;
}

/** Commands with their names resolved; null, with findings, where any of them is wrong: half of them is what nobody asked for. */
export function resolveCommands(resolution: Resolution, text: string): readonly NamedCommand[] | null {
  const { lines, findings } = parseCommands(inLines(text));
  resolution.findings.push(...findings);
  // What cannot be read is not told of a second time for what it does not say.
  if (findings.some(({ weight }) => weight === 'error')) return null;
  const commands: Commands = { resolution, named: new Map(), label: 'the command' };
  const resolved = lines.map((line) => resolveLine(commands, line));
  if (lines.length === 0)
    wrong(resolution, 'no-command', { start: 0, end: text.length }, 'There is no command, as in “create Player with name …”.');
  const failed = resolution.findings.some(
    ({ weight, code }) => weight === 'error' || code === 'not-built-yet' || code === 'left-out',
  );
  return failed ? null : resolved.flatMap((one) => one ?? []);
}

function resolveLine(commands: Commands, line: CommandLine): NamedCommand | null {
  const { resolution, named } = commands;
  if (line.kind === 'as') return notBuilt(resolution, line.span, 'what is done on behalf of somebody');
  const command = resolveCommand(commands, line.command);
  const { name } = line;
  if (name !== null && named.has(name.text))
    wrong(resolution, 'name-clash', name.span, `A line before has named its row ${name.text}. Give this one another name.`);
  const entity = command === null ? null : namedEntity(command);
  if (name !== null && command !== null && entity === null)
    wrong(resolution, 'no-one-row', name.span, `${name.text} would name a row, and this command makes and finds none.`);
  // A name stands for a row also where its line is wrong, so that what follows is not told for it.
  if (name !== null) named.set(name.text, entity ?? '');
  return command === null ? null : { name: name?.text ?? null, command, span: line.span };
}

/** The entity of the row that a command's name stands for; null for a command that has no one row. */
function namedEntity(command: Command): string | null {
  switch (command.kind) {
    case 'create':
    case 'find or create':
    case 'create or update':
      return command.row.entity;
    case 'update':
      return command.rows.one ? command.rows.entity : null;
    case 'link':
    case 'unlink':
    case 'delete':
      return null;
  }
}

function resolveCommand(commands: Commands, syntax: CommandSyntax): Command | null {
  switch (syntax.kind) {
    case 'create':
    case 'find or create':
    case 'create or update':
      return resolveMaking(commands, syntax);
    case 'update': {
      const rows = resolveRows(commands, syntax.target);
      const entity = rows === null ? undefined : commands.resolution.entities.get(rows.entity);
      if (rows === null || entity === undefined) return null;
      const values = valuesOf(commands, entity, syntax.values, { makes: false });
      return values === null ? null : { kind: 'update', rows, values: values.values };
    }
    case 'link':
    case 'unlink':
      return resolveLink(commands, syntax);
    case 'delete': {
      const rows = resolveRows(commands, syntax.target);
      return rows === null ? null : { kind: 'delete', rows };
    }
  }
}

type Making = Extract<CommandSyntax, { kind: 'create' | 'find or create' | 'create or update' | 'update' }>;

function resolveMaking(commands: Commands, syntax: Making): Command | null {
  const { resolution, label } = commands;
  const { target } = syntax;
  const last = target.steps.at(-1);
  const filter = last?.kind === 'filter' ? last : null;
  const finds = syntax.kind === 'find or create' || syntax.kind === 'create or update';
  if (finds && filter === null)
    return wrong(
      resolution,
      'command-match',
      target.span,
      `${label}: say in a bracket by what the row is found, as in “${syntax.kind} Player[email = 'ines@example.org']”.`,
    );
  if (!finds && filter !== null)
    return wrong(
      resolution,
      'command-match',
      filter.span,
      `${label}: a row that is made is not sought. Write its values behind “with”, or “find or create” in front.`,
    );
  const whole = filter === null ? target.steps : target.steps.slice(0, -1);
  const place = resolvePlace(commands, { ...target, steps: whole });
  if (place === null) return null;
  const { entity, through } = place;
  if (entity.kinds?.abstract === true)
    return wrong(
      resolution,
      'abstract-row',
      target.span,
      `${label}: no row is ${entity.name} alone. Make one of its kinds: ${entity.kinds.concrete.map((kind) => kind.entity).join(', ')}.`,
    );
  const row = newRow(commands, entity, syntax.values, syntax.span);
  if (row === null) return null;
  if (syntax.kind === 'create' || syntax.kind === 'update' || filter === null) return { kind: 'create', row, through };
  const match = matchOf(commands, entity, filter.condition);
  const condition = resolveCondition(contextOf(commands, entity), filter.condition);
  if (match === null || condition === null) return null;
  if (!isOfOne(entity, condition) && through === null)
    resolution.findings.push({
      weight: 'warning',
      code: 'match-not-unique',
      message: `${label}: nothing makes ${
        match
          .map(({ kind, ...one }) => (kind === 'field' && 'field' in one ? one.field.name : ''))
          .filter(Boolean)
          .join(', ') || 'this'
      } unique, so that several rows of ${entity.name} may match, and somebody else may make another meanwhile.`,
      span: filter.span,
      fixes: [],
    });
  return { kind: syntax.kind, match, row, through, condition };
}

/** Where a row is made: as one of an entity, or behind a role of another. */
function resolvePlace(
  commands: Commands,
  target: Path,
): { readonly entity: EntityDraft; readonly through: Through | null } | null {
  const { resolution, label } = commands;
  const last = target.steps.at(-1);
  if (last === undefined) {
    if (target.root.kind !== 'row' || target.root.key !== null)
      return wrong(
        resolution,
        'command-target',
        target.span,
        `${label}: say what is made: an entity, or a role of a row, as in “Player(3).loans”.`,
      );
    const entity = findEntity(resolution, target.root.entity, label);
    return entity === null ? null : { entity, through: null };
  }
  if (last.kind !== 'member')
    return wrong(resolution, 'command-target', last.span, `${label}: a row is made behind a role, and this is a condition.`);
  const owner = resolveRows(commands, { ...target, steps: target.steps.slice(0, -1) });
  const from = owner === null ? undefined : resolution.entities.get(owner.entity);
  if (owner === null || from === undefined) return null;
  const role = roleOf(commands, from, last.name);
  const entity = role === null ? undefined : resolution.entities.get(role.target);
  if (role === null || entity === undefined) return null;
  if (role.way.kind === 'path')
    return wrong(
      resolution,
      'path-written',
      last.span,
      `${label}: ${role.name} is a path over other relations. Make the row behind the relation itself.`,
    );
  return { entity, through: { owner, role } };
}

/** The one role that a name leads over. */
function roleOf(commands: Commands, entity: EntityDraft, name: Name): Role | null {
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

/** The values in a bracket by which a row is found: each field or role equal to something. */
function matchOf(commands: Commands, entity: EntityDraft, condition: Expr): readonly WrittenValue[] | null {
  const { resolution, label } = commands;
  if (condition.kind === 'binary' && condition.operator === 'and') {
    const left = matchOf(commands, entity, condition.left);
    const right = matchOf(commands, entity, condition.right);
    return left === null || right === null ? null : [...left, ...right];
  }
  const name =
    condition.kind === 'binary' &&
    condition.operator === '=' &&
    condition.left.kind === 'path' &&
    condition.left.path.root.kind === 'name' &&
    condition.left.path.steps.length === 0
      ? condition.left.path.root.name
      : null;
  if (name === null || condition.kind !== 'binary')
    return wrong(
      resolution,
      'command-match',
      condition.span,
      `${label}: a row is found by what its fields and roles are equal to, as in “email = 'ines@example.org' and branch = Branch(1)”, so that it can be made where there is none.`,
    );
  const value = writtenValue(commands, entity, { name, value: condition.right });
  return value === null ? null : [value];
}

function resolveLink(commands: Commands, syntax: Extract<CommandSyntax, { kind: 'link' | 'unlink' }>): Command | null {
  const { resolution, label } = commands;
  const { target, kind } = syntax;
  const last = target.steps.at(-1);
  if (last?.kind !== 'member')
    return wrong(
      resolution,
      'command-target',
      target.span,
      `${label}: say the role over which to ${kind}, as in “Player(3).ensembles”.`,
    );
  const owner = resolveRows(commands, { ...target, steps: target.steps.slice(0, -1) });
  const from = owner === null ? undefined : resolution.entities.get(owner.entity);
  if (owner === null || from === undefined) return null;
  const member = memberOf(resolution, from, last.name);
  if (member?.kind !== 'role' && member?.kind !== 'polymorphic') {
    roleOf(commands, from, last.name);
    return null;
  }
  if (syntax.others.length === 0)
    return wrong(
      resolution,
      'command-target',
      target.span,
      `${label}: say from what, as in “unlink Player(3).ensembles from Ensemble(2)”.`,
    );
  const others = syntax.others.map((other) => {
    const rows = resolveRows(commands, other);
    const to = rows === null ? undefined : resolution.entities.get(rows.entity);
    if (rows === null || to === undefined) return null;
    const role = member.kind === 'role' ? leadingTo(member.role, to) : branchTo(resolution, member.role, to);
    const targets = member.kind === 'role' ? [member.role.target] : member.role.branches.map((branch) => branch.target);
    if (role === null)
      return wrong(
        resolution,
        'type-mismatch',
        other.span,
        `${label}: ${from.name}.${last.name.text} leads to ${targets.join(', ')}, and this is ${to.name}.`,
      );
    if (role.way.kind === 'path')
      return wrong(
        resolution,
        'path-written',
        last.span,
        `${label}: ${role.name} is a path over other relations. Link over the relation itself.`,
      );
    return { role, rows };
  });
  if (others.includes(null)) return null;
  const [first] = others;
  const pivot = first === null || first === undefined ? undefined : resolution.pivots.get(first.role.relation);
  const fields: WrittenValue[] = [];
  for (const value of syntax.values) {
    const field = value.kind === 'value' ? pivot?.fields.find((one) => one.name === value.name.text) : undefined;
    if (value.kind !== 'value' || field === undefined)
      return pivot === undefined || pivot.fields.length === 0
        ? wrong(resolution, 'no-pivot-field', value.name.span, `${label}: a pair of ${last.name.text} has no fields of its own.`)
        : unknownName(
            resolution,
            value.name,
            `field of the pair called`,
            pivot.fields.map((one) => one.name),
          );
    refer(resolution.references, value.name, 'pivot field', pivot?.name ?? '');
    const written = fieldValue(commands, null, field, value.name, value.value);
    if (written === null) return null;
    fields.push(written);
  }
  return { kind, owner, others: others.flatMap((one) => one ?? []), fields };
}

/** A role, where a row of this entity can stand behind it. */
function leadingTo(role: Role, entity: EntityDraft): Role | null {
  return leadingUp(entity, role.target) === null ? null : role;
}

/** An entity of this name, itself or a base above it; null where there is none. */
function leadingUp(entity: EntityDraft, name: string): EntityDraft | null {
  if (entity.name === name) return entity;
  return entity.base === null ? null : leadingUp(entity.base, name);
}

/** The rows that a path of the text means. */
function resolveRows(commands: Commands, path: Path): CommandRows | null {
  const { resolution, label, named } = commands;
  if (path.root.kind === 'me') return notBuilt(resolution, path.root.span, 'rows that belong to whoever asks');
  if (path.root.kind !== 'row')
    return wrong(resolution, 'command-target', path.span, `${label}: say which rows, as in “Player(3)” or “Loan[overdue]”.`);
  const { root } = path;
  const entity = findEntity(resolution, root.entity, label);
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
    const row = resolveExpression(contextOf(commands, null), {
      kind: 'path',
      path: { root, steps: [], span: root.span },
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
    query: queryOf(entity.name, { where, loads, span: path.span }),
    path: walked.map(({ role }) => role.name),
    one: one || where.some((condition) => isOfOne(entity, condition) && walked.length === 0),
    span: path.span,
  };
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

function newRow(commands: Commands, entity: EntityDraft, values: readonly CommandValue[], span: Span): NewRow | null {
  const resolved = valuesOf(commands, entity, values, { makes: true });
  return resolved === null ? null : { entity: entity.name, ...resolved, span };
}

/** The values that are written into a row of an entity, and the children that are made with it. */
function valuesOf(
  commands: Commands,
  entity: EntityDraft,
  values: readonly CommandValue[],
  { makes }: { readonly makes: boolean },
): Pick<NewRow, 'values' | 'children'> | null {
  const { resolution, label } = commands;
  const written: WrittenValue[] = [];
  const children: NewRow['children'][number][] = [];
  const names = new Set<string>();
  let sound = true;
  for (const value of values) {
    if (names.has(value.name.text)) {
      wrong(resolution, 'said-twice', value.name.span, `${label} says ${value.name.text} twice. Keep one of the two.`);
      sound = false;
    }
    names.add(value.name.text);
    if (value.kind === 'value') {
      const one = writtenValue(commands, entity, value);
      const why = one === null || makes ? null : whyKept(entity, one);
      if (why !== null) wrong(resolution, 'fixed-field', value.name.span, `${label}: ${entity.name}.${value.name.text} ${why}.`);
      if (one === null || why !== null) sound = false;
      else written.push(one);
      continue;
    }
    const made = makes
      ? childrenOf(commands, entity, value)
      : wrong(
          resolution,
          'children-in-update',
          value.span,
          `${label}: children are made with “create”, as in “create ${entity.name}(…).${value.name.text} with …”.`,
        );
    if (made === null) sound = false;
    else children.push(made);
  }
  return sound ? { values: written, children } : null;
}

/** Why a value stays as it is once its row is made; null where it can be changed. */
function whyKept(entity: EntityDraft, value: WrittenValue): string | null {
  const { way } = value.kind === 'role' ? value.role : { way: null };
  const columns = value.kind === 'field' ? [value.field.column.value] : way?.kind === 'key' ? way.columns : [];
  if (columns.some((column) => entity.key.columns.includes(column))) return 'is of the key, by which others point at the row';
  return value.kind === 'field' && value.field.fixed ? 'is fixed: it is set once, when the row is made' : null;
}

function childrenOf(
  commands: Commands,
  entity: EntityDraft,
  { name, rows, span }: Extract<CommandValue, { kind: 'children' }>,
): NewRow['children'][number] | null {
  const { resolution, label } = commands;
  const role = roleOf(commands, entity, name);
  const target = role === null ? undefined : resolution.entities.get(role.target);
  if (role === null || target === undefined) return null;
  if (role.way.kind !== 'child' && role.way.kind !== 'pivot')
    return wrong(
      resolution,
      'not-children',
      name.span,
      `${label}: ${entity.name}.${name.text} leads to one row, which is set as a value, or made before.`,
    );
  const made = rows.map((values: readonly Assignment[]) =>
    newRow(
      commands,
      target,
      values.map((value) => ({ kind: 'value' as const, ...value, span: value.name.span })),
      span,
    ),
  );
  return made.includes(null) ? null : { role, rows: made.flatMap((row) => row ?? []), span };
}

/** A value for a field or a role of an entity. */
function writtenValue(commands: Commands, entity: EntityDraft, { name, value }: Assignment): WrittenValue | null {
  const { resolution, label } = commands;
  const member = memberOf(resolution, entity, name);
  if (member === null)
    return unknownMember(
      resolution,
      entity,
      name,
      label,
      `field or role of ${entity.name} called`,
      memberNames(resolution, entity),
    );
  if (member.kind === 'field') return fieldValue(commands, entity, member.field, name, value);
  if (member.kind !== 'role' && member.kind !== 'polymorphic')
    return wrong(
      resolution,
      'computed-member',
      name.span,
      `${label}: ${entity.name}.${name.text} is a ${told(member)}, and is computed.`,
    );
  const { knows } = member.role;
  if (knows === 'many' || (member.kind === 'role' && member.role.way.kind === 'path'))
    return wrong(
      resolution,
      'many-rows',
      name.span,
      `${label}: ${entity.name}.${name.text} leads to many rows. Make them with it, as in “${name.text}: (…), (…)”, or link them.`,
    );
  if (value.kind === 'null') return roleValue(commands, entity, member.role, name, null);
  const rows = value.kind === 'path' ? resolveRows(commands, value.path) : null;
  if (value.kind !== 'path')
    return wrong(
      resolution,
      'type-mismatch',
      value.span,
      `${label}: ${entity.name}.${name.text} is a row, as in ${targetsOf(member.role)[0]}(1).`,
    );
  return rows === null ? null : roleValue(commands, entity, member.role, name, rows);
}

function roleValue(
  { resolution, label }: Commands,
  entity: EntityDraft,
  role: Role | PolymorphicRole,
  name: Name,
  rows: CommandRows | null,
): WrittenValue | null {
  const to = rows === null ? undefined : resolution.entities.get(rows.entity);
  const branch =
    'branches' in role
      ? to === undefined
        ? (role.branches[0] ?? null)
        : branchTo(resolution, role, to)
      : to === undefined
        ? role
        : leadingTo(role, to);
  if (branch === null)
    return wrong(
      resolution,
      'type-mismatch',
      rows?.span ?? name.span,
      `${label}: ${entity.name}.${name.text} is a row of ${targetsOf(role).join(', ')}, and this is one of ${to?.name}.`,
    );
  return { kind: 'role', role: branch, rows, span: name.span };
}

function targetsOf(role: Role | PolymorphicRole): readonly string[] {
  return 'branches' in role ? role.branches.map(({ target }) => target) : [role.target];
}

function fieldValue(commands: Commands, entity: EntityDraft | null, field: Field, name: Name, value: Expr): WrittenValue | null {
  const { resolution, label } = commands;
  if (field.physical.generated !== null)
    return wrong(resolution, 'computed-member', name.span, `${label}: ${field.name} is computed by the database.`);
  const context = { ...contextOf(commands, entity), label: `${label}, ${field.name}` };
  const expression = resolveExpression(context, value);
  const fitted = expression === null ? null : fitTo(context, expression, field.type);
  return fitted === null ? null : { kind: 'field', field, expression: fitted, span: name.span };
}

function contextOf({ resolution, label }: Commands, entity: EntityDraft | null): Context {
  return { resolution, reading, entity, pivot: null, parameters: new Map(), query: null, label, reach: 'all', resolving: [] };
}
