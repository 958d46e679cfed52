import type { Assignment, Path, SampleSyntax } from '../notation/index.js';
import type { Context } from './context.js';
import { type Member, memberOf } from './context.js';
import { type EntityDraft, findEntity, notBuilt, type Resolution, unknownMember, unknownName, wrong } from './draft.js';
import type { ExpressionType } from './expression.js';
import { fitTo, reading, resolveExpression } from './expressions.js';
import type { PolymorphicRole, Sample, SampleGenerator, SampleRow, SampleValue } from './model.js';
import { branchTo, told } from './paths.js';
import { refer } from './references.js';

/** A sample with its names resolved. A row or line that is wrong is told and left out; the others stand. */
export function resolveSample(
  resolution: Resolution,
  syntax: SampleSyntax,
  rowNames: ReadonlyMap<string, ReadonlySet<string>>,
): Sample | null {
  const label = `sample ${syntax.entity.text}`;
  const entity = findEntity(resolution, syntax.entity, label);
  if (entity === null) return null;
  const known = knownMembers(entity);
  const rows: SampleRow[] = [];
  const generators: SampleGenerator[] = [];
  for (const line of syntax.lines) {
    if (line.kind === 'row') {
      refer(resolution.references, line.name, 'sample row', entity.name, true);
      if (rows.some((row) => row.name === line.name.text)) {
        wrong(resolution, 'name-clash', line.name.span, `${label} has a row ${line.name.text} already. Rename one of the two.`);
        continue;
      }
      const values = new Map<string, SampleValue>();
      let sound = true;
      for (const assignment of line.values) {
        const value = resolveAssignment(resolution, entity, assignment, label, rowNames);
        if (value === null) sound = false;
        else values.set(assignment.name.text, value);
      }
      if (sound) rows.push({ name: line.name.text, values, span: line.span });
    } else {
      const member = memberOf(resolution, entity, line.member);
      const isRole = member?.kind === 'role' || member?.kind === 'polymorphic';
      const targets = isRole ? targetsOf(member) : [];
      if (member === null) {
        unknownMember(resolution, entity, line.member, `${label}: this line`, `field or role of ${entity.name} called`, known);
      } else if (member.kind !== 'field' && (!isRole || (member.kind === 'role' && member.role.way.kind === 'path'))) {
        wrong(
          resolution,
          'sample-member',
          line.member.span,
          `${label}: ${line.member.text} is a ${told(member)} and is computed, never made.`,
        );
      } else if (isRole !== (line.generator.kind === 'any' || line.generator.kind === 'each')) {
        const way = isRole ? `“any ${targets[0]}” or, where there are many, “0 to 5 each”` : 'values, or “between … and …”';
        wrong(
          resolution,
          'sample-generator',
          line.span,
          `${label}: ${line.member.text} is a ${told(member)}; it is made by ${way}.`,
        );
      } else if (line.generator.kind === 'any' && !isWholeEntity(resolution, line.generator.target, targets, label)) {
        // What is wrong with the target was told.
      } else {
        generators.push({ member: line.member.text, generator: eachWithin(resolution, line, label), span: line.span });
      }
    }
  }
  return { entity: entity.name, count: countWithin(resolution, syntax, label), rows, generators, span: syntax.span };
}

/** How many rows of one entity are made at most, which takes about a minute; and how many children of one parent. */
export const MOST_SAMPLE_ROWS = 1_000_000;
const MOST_EACH = 1000;

function countWithin(resolution: Resolution, { count, head }: SampleSyntax, label: string): number | null {
  if (count === null || count <= MOST_SAMPLE_ROWS) return count;
  wrong(
    resolution,
    'too-many-rows',
    head,
    `${label}: ${MOST_SAMPLE_ROWS.toLocaleString('en')} rows of an entity are made at most, and this asks for more. Bring a database in that has them.`,
  );
  return MOST_SAMPLE_ROWS;
}

type GeneratorLine = Extract<SampleSyntax['lines'][number], { kind: 'generator' }>;

function eachWithin(resolution: Resolution, { generator, span }: GeneratorLine, label: string): GeneratorLine['generator'] {
  if (generator.kind !== 'each' || generator.most <= MOST_EACH) return generator;
  wrong(
    resolution,
    'too-many-rows',
    span,
    `${label}: ${MOST_EACH.toLocaleString('en')} each are made at most, and this asks for more.`,
  );
  return { ...generator, least: Math.min(generator.least, MOST_EACH), most: MOST_EACH };
}

function resolveAssignment(
  resolution: Resolution,
  entity: EntityDraft,
  assignment: Assignment,
  label: string,
  rowNames: ReadonlyMap<string, ReadonlySet<string>>,
): SampleValue | null {
  const { name, value } = assignment;
  const member = memberOf(resolution, entity, name);
  const context: Context = {
    resolution,
    reading,
    entity: null,
    pivot: null,
    parameters: new Map(),
    label: `${label}, ${name.text}`,
    query: null,
    reach: 'all',
    resolving: [],
  };
  if (member === null)
    return unknownMember(
      resolution,
      entity,
      name,
      `${label}: this row`,
      `field or role of ${entity.name} called`,
      knownMembers(entity),
    );
  const held =
    member.kind === 'polymorphic' && member.role.knows !== 'many' && member.role.branches.some(({ way }) => way.kind === 'key');
  if (member.kind === 'polymorphic' && held) return resolveTarget(context, member.role, value, rowNames);
  const stored: ExpressionType | null =
    member.kind === 'field'
      ? member.field.type
      : member.kind === 'role' && member.role.way.kind === 'key'
        ? { kind: 'row', entity: member.role.target }
        : null;
  if (stored === null) {
    return wrong(
      resolution,
      'sample-member',
      name.span,
      `${label}: ${name.text} is not stored in ${entity.name}, so a row cannot set it. Set it from the other side, or write “${name.text} 0 to 3 each” below a “sample ${entity.name} 10”.`,
    );
  }
  const expression = resolveExpression(context, value);
  if (expression === null) return null;
  const fitted = fitTo(context, expression, stored);
  if (fitted === null) return null;
  if (fitted.kind === 'sample row') {
    const known = rowNames.get(fitted.entity) ?? new Set<string>();
    if (known.has(fitted.row)) return { kind: 'row', entity: fitted.entity, row: fitted.row };
    return unknownName(resolution, { text: fitted.row, span: fitted.span }, `sample row of ${fitted.entity} called`, known);
  }
  if (fitted.kind === 'value' && fitted.type.kind !== 'decimal') return { kind: 'value', value: fitted.value };
  return { kind: 'expression', expression: fitted };
}

/** A row of one of the entities that a polymorphic role leads to. */
function resolveTarget(
  context: Context,
  role: PolymorphicRole,
  value: Assignment['value'],
  rowNames: ReadonlyMap<string, ReadonlySet<string>>,
): SampleValue | null {
  const { resolution, label } = context;
  const expression = resolveExpression(context, value);
  if (expression === null) return null;
  const { type } = expression;
  const entity = type.kind === 'row' ? resolution.entities.get(type.entity) : undefined;
  if (type.kind === 'null') return { kind: 'value', value: null };
  if (entity === undefined || branchTo(resolution, role, entity) === null || role.knows === 'many') {
    const targets = role.branches.map(({ target }) => target).join(', ');
    return wrong(
      resolution,
      'sample-member',
      value.span,
      `${label} is a row of ${targets}, as in ${role.branches[0]?.target}(1).`,
    );
  }
  if (expression.kind === 'sample row') {
    const known = rowNames.get(expression.entity) ?? new Set<string>();
    if (known.has(expression.row)) return { kind: 'row', entity: expression.entity, row: expression.row };
    return unknownName(resolution, { text: expression.row, span: expression.span }, `sample row of ${entity.name} called`, known);
  }
  return expression.kind === 'value' ? { kind: 'key', entity: entity.name, key: expression.value } : null;
}

function knownMembers(entity: EntityDraft): string[] {
  return [...entity.fields, ...entity.roles, ...entity.polymorphic].map((member) => member.name);
}

/** The entities that a role leads to. */
function targetsOf(member: Extract<Member, { kind: 'role' | 'polymorphic' }>): string[] {
  return member.kind === 'role' ? [member.role.target] : member.role.branches.map(({ target }) => target);
}

/** `any Player`: the target is the role's, whole. */
function isWholeEntity(resolution: Resolution, target: Path, targets: readonly string[], label: string): boolean {
  if (target.root.kind !== 'row' || !targets.includes(target.root.entity.text)) {
    wrong(
      resolution,
      'sample-generator',
      target.span,
      `${label}: this role leads to ${targets.join(', ')}, so write “any ${targets[0]}”.`,
    );
    return false;
  }
  refer(resolution.references, target.root.entity, 'entity');
  if (target.root.key !== null || target.steps.length > 0) {
    notBuilt(resolution, target.span, `${label} picks among some rows of ${target.root.entity.text} only`);
    return false;
  }
  return true;
}
