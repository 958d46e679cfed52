import type { Design } from '../design/index.js';
import { nameText } from '../edits/index.js';
import type { Expr, Fix, Path, WallSyntax } from '../notation/index.js';

/**
 * The line that would keep rows of an entity as those are kept which they belong to: the wall's own line, asked over the path. Null
 * where it cannot be said so.
 *
 * @param path the to-one roles that lead from the entity to the one that the wall stands on
 */
export function closingLine(
  design: Design,
  wallName: string,
  entity: string,
  path: readonly string[],
  target: string,
): Fix | null {
  const wall = design.syntax.declarations.find((one): one is WallSyntax => one.kind === 'wall' && one.name.text === wallName);
  const line = wall?.lines.find((one) => one.kind === 'where' && one.entity.text === target);
  if (wall === undefined || line === undefined || line.kind !== 'where') return null;
  const text = prefixed(design.text, line.condition, path.map(nameText).join('.'));
  const added = `${nameText(entity)} where ${text.replace(/\s*\n\s*/g, ' ')}`;
  const last = wall.lines.filter((one) => one.kind === 'where').at(-1)?.span.end ?? wall.head.end;
  const fix: Fix = {
    title: `Write “${added}” into wall ${wallName}`,
    edits: [{ span: { start: last, end: last }, text: `\n  ${added}` }],
  };
  return isRead(design, entity, text) ? fix : null;
}

/** The line by which rows of an entity are their own for whoever is at work alone, in a wall of its own. */
export function ownLine(design: Design, entity: string, path: readonly string[]): Fix | null {
  const condition = `${path.map(nameText).join('.')} = me`;
  const added = `${nameText(entity)} where ${condition}`;
  const name = freeName(design, `own_${entity.toLowerCase().replace(/\W/g, '_')}`);
  const end = design.text.trimEnd().length;
  const fix: Fix = {
    title: `Add a wall: ${added}`,
    edits: [{ span: { start: end, end }, text: `\n\nwall ${name}\n  ${added}` }],
  };
  return isRead(design, entity, condition) ? fix : null;
}

function freeName({ model }: Design, wish: string): string {
  let name = wish;
  for (let number = 2; model.walls.has(name); number++) name = `${wish}_${number}`;
  return name;
}

/** Whether a condition means something of the rows of an entity. */
function isRead(design: Design, entity: string, condition: string): boolean {
  const { query, findings } = design.queryOf(`from ${nameText(entity)}\nwhere ${condition}`);
  return query !== null && !findings.some(({ weight }) => weight === 'error');
}

/** An expression's text in which each path that begins at the row at hand begins with another before it. */
function prefixed(text: string, whole: Expr, path: string): string {
  const starts = pathsIn(whole).map(({ span }) => span.start);
  let result = '';
  let at = whole.span.start;
  for (const start of starts.sort((a, b) => a - b)) {
    result += `${text.slice(at, start)}${path}.`;
    at = start;
  }
  return result + text.slice(at, whole.span.end);
}

/** The paths of an expression that begin at the row at hand: those in brackets begin elsewhere. */
function pathsIn(expression: Expr): readonly Path[] {
  switch (expression.kind) {
    case 'path':
      return expression.path.root.kind === 'name' ? [expression.path] : [];
    case 'binary':
      return [...pathsIn(expression.left), ...pathsIn(expression.right)];
    case 'not':
    case 'negate':
    case 'is null':
      return pathsIn(expression.operand);
    case 'is a':
      return expression.operand === null ? [] : pathsIn(expression.operand);
    case 'in':
      return [expression.operand, ...expression.items].flatMap(pathsIn);
    case 'between':
      return [expression.operand, expression.low, expression.high].flatMap(pathsIn);
    case 'like':
      return [expression.operand, expression.pattern].flatMap(pathsIn);
    case 'call':
      return expression.args.flatMap(pathsIn);
    case 'case':
      return [
        ...expression.branches.flatMap(({ when, then }) => [when, then]),
        ...(expression.otherwise === null ? [] : [expression.otherwise]),
      ].flatMap(pathsIn);
    default:
      return [];
  }
}
