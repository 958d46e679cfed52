import type { Assignment, CommandValue, Expr, Name, Span } from '../notation/index.js';
import type { CommandRows, NewRow, WrittenValue } from './command.js';
import { type Commands, contextOf, leadingTo, resolveRows, roleOf } from './command-rows.js';
import { memberNames, memberOf } from './context.js';
import { type EntityDraft, unknownMember, wrong } from './draft.js';
import type { Role } from './expression.js';
import { fitTo, resolveExpression } from './expressions.js';
import type { Field, PolymorphicRole } from './model.js';
import { branchTo, told } from './paths.js';

/** A row that a command makes, with its values and its children. */
export function newRow(commands: Commands, entity: EntityDraft, values: readonly CommandValue[], span: Span): NewRow | null {
  const resolved = valuesOf(commands, entity, values, { makes: true });
  return resolved === null ? null : { entity: entity.name, ...resolved, span };
}

/** The values that are written into a row of an entity, and the children that are made with it. */
export function valuesOf(
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

/** Rows that are made with another, as children of it. */
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
export function writtenValue(commands: Commands, entity: EntityDraft, { name, value }: Assignment): WrittenValue | null {
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

/** A value for a role: a row, by the branch that leads to it, or none. */
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

/** A value for a field, of a row of an entity or of a pair. */
export function fieldValue(
  commands: Commands,
  entity: EntityDraft | null,
  field: Field,
  name: Name,
  value: Expr,
): WrittenValue | null {
  const { resolution, label } = commands;
  if (field.physical.generated !== null)
    return wrong(resolution, 'computed-member', name.span, `${label}: ${field.name} is computed by the database.`);
  const context = { ...contextOf(commands, entity), label: `${label}, ${field.name}` };
  const expression = resolveExpression(context, value);
  const fitted = expression === null ? null : fitTo(context, expression, field.type, 'set to');
  return fitted === null ? null : { kind: 'field', field, expression: fitted, span: name.span };
}
