import type { EntityLine, EntitySyntax, Expr, Name, Span } from '../notation/index.js';
import { type EntityDraft, notBuilt, type Resolution, unknownName, wrong } from './draft.js';
import { resolveField } from './fields.js';
import { type KeySources, resolveKey } from './keys.js';
import type { Field } from './model.js';
import { plural, snakeCase } from './names.js';
import { refer } from './references.js';

/**
 * The frame of an entity: table, fields, key. What stands on relations (constraints, derived fields, order) is
 * resolved later, when all roles are known. Null, with a finding, where the model has to leave the entity out.
 */
export function draftEntity(resolution: Resolution, syntax: EntitySyntax, sources: KeySources): EntityDraft | null {
  const name = syntax.name.text;
  const { lines, mixins, owners } = linesOf(resolution, syntax);
  const unbuilt = unbuiltPart(syntax, lines);
  if (unbuilt !== null) {
    resolution.leftOut.set(name, 'not built');
    return notBuilt(resolution, unbuilt.span, `${name} ${unbuilt.what}`);
  }
  resolution.leftOut.set(name, 'wrong');
  const fields: Field[] = [];
  for (const line of lines) {
    if (line.kind === 'derived') refer(resolution.references, line.name, 'field', owners.get(line) ?? name, true);
    if (line.kind !== 'field') continue;
    refer(resolution.references, line.name, 'field', owners.get(line) ?? name, true);
    const clash = fields.find((field) => field.name.toLowerCase() === line.name.text.toLowerCase());
    if (clash !== undefined) {
      wrong(
        resolution,
        'name-clash',
        line.name.span,
        `${name} has a field ${clash.name} already${clash.mixin === null ? '' : `, from ${clash.mixin}`}. Rename one of the two.`,
      );
      continue;
    }
    const field = resolveField(resolution, name, line, owners.get(line) ?? null);
    if (field === null) {
      resolution.leftOutMembers.add(`${name}.${line.name.text}`);
      continue;
    }
    const sameColumn = fields.find((other) => other.column.value.toLowerCase() === field.column.value.toLowerCase());
    if (sameColumn !== undefined) {
      wrong(
        resolution,
        'column-clash',
        field.span,
        `${name}.${field.name} and ${name}.${sameColumn.name} are both stored in ${field.column.value}. Give one of them another column.`,
      );
      continue;
    }
    fields.push(field);
  }
  const key = resolveKey(resolution, syntax, fields, sources);
  if (key === null) return null;
  resolution.leftOut.delete(name);
  const [alone] = key.fields.length === 1 ? key.fields : [];
  return {
    name,
    table:
      syntax.table === null
        ? {
            value: { schema: null, name: plural(snakeCase(name)) },
            origin: { kind: 'convention', rule: 'the plural of the entity’s name' },
          }
        : {
            value: { schema: syntax.table.schema?.text ?? null, name: syntax.table.name.text },
            origin: { kind: 'stated', span: syntax.table.span },
          },
    // “key (id)” of one field says the same as that field’s own word.
    fields: fields.map((field) => (field === alone ? { ...field, key: true } : field)),
    key,
    lines,
    owners,
    mixins,
    roles: [],
    derived: new Map(),
    span: syntax.span,
    head: syntax.head,
  };
}

function linesOf(
  resolution: Resolution,
  syntax: EntitySyntax,
): { lines: EntityLine[]; mixins: string[]; owners: Map<EntityLine, string> } {
  const lines: EntityLine[] = [];
  const mixins: string[] = [];
  const owners = new Map<EntityLine, string>();
  const take = (line: EntityLine, seen: readonly string[]) => {
    if (line.kind !== 'uses') {
      lines.push(line);
      return;
    }
    for (const name of line.mixins) {
      if (seen.includes(name.text)) {
        wrong(resolution, 'mixin-loop', name.span, `${name.text} takes itself in. Remove it from one of the two.`);
      } else if (!mixins.includes(name.text)) takeMixin(name, seen);
    }
  };
  const takeMixin = (name: Name, seen: readonly string[]) => {
    const mixin = resolution.mixins.get(name.text);
    if (mixin === undefined) {
      unknownName(resolution, name, 'mixin', resolution.mixins.keys());
      return;
    }
    refer(resolution.references, name, 'mixin');
    mixins.push(name.text);
    for (const line of mixin.lines) {
      const refused = line.kind === 'key' || line.kind === 'kinds' || line.kind === 'shown as';
      if (refused) continue;
      take(line, [...seen, name.text]);
      owners.set(line, name.text);
    }
  };
  for (const line of syntax.lines) take(line, []);
  return { lines, mixins, owners };
}

interface Unbuilt {
  readonly what: string;
  readonly span: Span;
}

function unbuiltPart(syntax: EntitySyntax, lines: readonly EntityLine[]): Unbuilt | null {
  if (syntax.base !== null) return { what: `is a kind of ${syntax.base.text}`, span: syntax.head };
  if (syntax.abstract) return { what: 'is abstract', span: syntax.head };
  if (syntax.given) return { what: 'is given', span: syntax.head };
  for (const line of lines) {
    if (line.kind === 'kinds') return { what: 'stores kinds', span: line.span };
    if (line.kind === 'always load') return { what: 'is always loaded with something', span: line.span };
    if (line.kind === 'derived' && walks(line.expression))
      return { what: `has a derived field ${line.name.text} that walks relations`, span: line.span };
  }
  return null;
}

/** Does an expression, as written, leave its own row? */
function walks(expression: Expr): boolean {
  switch (expression.kind) {
    case 'path':
      return expression.path.steps.length > 0 || expression.path.root.kind !== 'name';
    case 'call':
      return (
        ['any', 'none', 'all', 'count', 'sum', 'avg', 'min', 'max'].includes(expression.name.text) || expression.args.some(walks)
      );
    case 'binary':
      return walks(expression.left) || walks(expression.right);
    case 'not':
    case 'negate':
    case 'is null':
      return walks(expression.operand);
    case 'is a':
      return true;
    case 'in':
      return walks(expression.operand) || expression.items.some(walks);
    case 'between':
      return walks(expression.operand) || walks(expression.low) || walks(expression.high);
    case 'like':
      return walks(expression.operand) || walks(expression.pattern);
    case 'case':
      return (
        expression.branches.some((branch) => walks(branch.when) || walks(branch.then)) ||
        (expression.otherwise !== null && walks(expression.otherwise))
      );
    default:
      return false;
  }
}
