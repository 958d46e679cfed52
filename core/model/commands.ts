import { type CommandLine, type CommandSyntax, type Expr, type Path, parseCommands } from '../notation/index.js';
import { resolveActor } from './actors.js';
import type { Command, NamedCommand, Through, WrittenValue } from './command.js';
import { type Commands, contextOf, leadingTo, resolveRows, roleOf } from './command-rows.js';
import { fieldValue, newRow, valuesOf, writtenValue } from './command-values.js';
import { memberOf } from './context.js';
import { type EntityDraft, findEntity, type Resolution, unknownName, wrong } from './draft.js';
import { type Expression, type Role, someExpression } from './expression.js';
import { resolveCondition } from './expressions.js';
import { isOfOne } from './found-rows.js';
import { branchTo, pivotBehind } from './paths.js';
import { refer } from './references.js';

/** Commands with their names resolved; null, with findings, where any of them is wrong: half of them is what nobody asked for. */
export function resolveCommands(resolution: Resolution, text: string): readonly NamedCommand[] | null {
  const { lines, findings } = parseCommands(text);
  resolution.findings.push(...findings);
  // What cannot be read is not told of a second time for what it does not say.
  if (findings.some(({ weight }) => weight === 'error')) return null;
  const commands: Commands = { resolution, named: new Map(), label: 'the command', whole: new Map(), actor: null };
  const resolved = lines.map((line) => resolveLine(commands, line));
  if (lines.every(({ kind }) => kind === 'as'))
    wrong(resolution, 'no-command', { start: 0, end: text.length }, 'There is no command, as in “create Player with name …”.');
  const failed = resolution.findings.some(
    ({ weight, code }) => weight === 'error' || code === 'not-built-yet' || code === 'left-out',
  );
  return failed ? null : resolved.flatMap((one) => one ?? []);
}

function resolveLine(commands: Commands, line: CommandLine): NamedCommand | null {
  const { resolution, named } = commands;
  if (line.kind === 'as') {
    commands.actor = resolveActor(resolution, line.actor, commands.label);
    return null;
  }
  const command = resolveCommand(commands, line.command);
  const { name } = line;
  if (name !== null && named.has(name.text))
    wrong(resolution, 'name-clash', name.span, `A line before has named its row ${name.text}. Give this one another name.`);
  const entity = command === null ? null : namedEntity(command);
  if (name !== null && command !== null && entity === null)
    wrong(resolution, 'no-one-row', name.span, `${name.text} would name a row, and this command makes and finds none.`);
  // A name stands for a row also where its line is wrong, so that what follows is not told for it.
  if (name !== null) named.set(name.text, entity ?? '');
  return command === null ? null : { name: name?.text ?? null, as: commands.actor, command, span: line.span };
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

/** A command with its names resolved; null where any of them is wrong. */
export function resolveCommand(commands: Commands, syntax: CommandSyntax): Command | null {
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
      message: `${label}: nothing makes ${match.map(nameOf).join(', ')} unique, so that several rows of ${entity.name} may match, and somebody else may make another meanwhile.`,
      span: filter.span,
      fixes: [],
    });
  return { kind: syntax.kind, match, row, through, condition };
}

function nameOf(value: WrittenValue): string {
  return value.kind === 'field' ? value.field.name : value.role.name;
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
  const at = target.steps.findLastIndex((step) => step.kind === 'member');
  const last = target.steps[at];
  const filters = target.steps.slice(at + 1);
  if (last?.kind !== 'member' || (kind === 'link' && filters.length > 0))
    return wrong(
      resolution,
      'command-target',
      target.span,
      `${label}: say the role over which to ${kind}, as in “Player(3).ensembles”.`,
    );
  const owner = resolveRows(commands, { ...target, steps: target.steps.slice(0, at) });
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
  const pairs = filters.length === 0 ? null : pairsMeant(commands, first?.role ?? null, filters);
  if (pairs === null && filters.length > 0) return null;
  return { kind, owner, others: others.flatMap((one) => one ?? []), fields, pairs };
}

/** The condition that pairs of a role hold to, by what they hold themselves. */
function pairsMeant(commands: Commands, role: Role | null, filters: Path['steps']): Expression | null {
  const { resolution, label } = commands;
  const pivot = role === null ? null : pivotBehind(resolution, role);
  const target = role === null ? undefined : resolution.entities.get(role.target);
  const conditions: Expression[] = [];
  for (const filter of filters) {
    if (pivot === null || target === undefined || filter.kind !== 'filter')
      return wrong(
        resolution,
        'command-target',
        filter.span,
        `${label}: ${role?.name ?? 'this'} is kept by a key, so that there is no pair to say more of.`,
      );
    const condition = resolveCondition({ ...contextOf(commands, target), pivot }, filter.condition);
    if (condition === null) return null;
    const ofRow = (one: Expression) => 'hops' in one || one.kind === 'of group';
    if (someExpression(condition, ofRow))
      return wrong(
        resolution,
        'command-target',
        filter.span,
        `${label}: the condition says which pairs are taken apart, by what they hold themselves${pivot.fields.length === 0 ? ', and these hold nothing' : `, as in “[${pivot.table.value.name}.${pivot.fields[0]?.name} = …]”`}. Say behind “from” which rows.`,
      );
    conditions.push(condition);
  }
  return conditions.reduce((left, right) => ({
    kind: 'binary',
    operator: 'and',
    left,
    right,
    type: { kind: 'boolean' },
    span: right.span,
  }));
}
