import { didYouMean, type Name, type ParameterSyntax, parseQuery, type QueryLine, type Span } from '../notation/index.js';
import { resolveAmount } from './amounts.js';
import type { Context } from './context.js';
import { type EntityDraft, findEntity, type Resolution, wrong } from './draft.js';
import type { Expression } from './expression.js';
import { reading, resolveCondition } from './expressions.js';
import { resolveType } from './fields.js';
import { merged, resolveLoad } from './loads.js';
import type { Cardinality, Load, Parameter, Query } from './model.js';
import { resolveReads } from './reads.js';
import { refer } from './references.js';
import { resolveShown } from './shown.js';

interface QueryParts {
  readonly name: Name | null;
  readonly parameters: readonly ParameterSyntax[];
  readonly lines: readonly QueryLine[];
  readonly span: Span;
  /** How many values are given for each parameter that is a list. */
  readonly given?: ReadonlyMap<string, number>;
}

/**
 * A query with its names resolved. Null, with a finding, where any of its lines is wrong: half a query would answer
 * something that nobody asked.
 */
export function resolveQuery(resolution: Resolution, syntax: QueryParts): Query | null {
  const label = syntax.name === null ? 'the query' : `query ${syntax.name.text}`;
  const before = resolution.findings.length;
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
    me: 'bound',
    resolving: [],
    parameters: new Map(parameters.map((parameter) => [parameter.name, parameter.type])),
    lists: new Map(parameters.flatMap(({ name, many }) => (many ? [[name, syntax.given?.get(name) ?? null] as const] : []))),
    query: syntax.name?.text ?? null,
  };
  const parts = partsOf(context, entity, syntax.lines);
  const shown = resolveShown(context, syntax.lines, parts.loads);
  const reads = resolveReads(context, syntax.lines);
  const failed = resolution.findings
    .slice(before)
    .some((finding) => finding.weight === 'error' || finding.code === 'not-built-yet' || finding.code === 'left-out');
  if (failed) return null;
  return { name: syntax.name?.text ?? null, entity: entity.name, parameters, ...parts, ...shown, reads, span: syntax.span };
}

/** What the lines of a query say of its rows, but for what a flat answer shows of them. */
function partsOf(
  context: Context,
  entity: EntityDraft,
  lines: readonly QueryLine[],
): Pick<Query, 'where' | 'limit' | 'offset' | 'loads' | 'lifts' | 'cardinality' | 'note'> {
  const { resolution, label } = context;
  const where: Expression[] = [];
  const loads: Load[] = [];
  const lifts: string[] = [];
  let limit: Expression | null = null;
  let offset: Expression | null = null;
  let cardinality: Cardinality = 'many';
  let note: string | null = null;
  for (const line of lines) {
    switch (line.kind) {
      case 'where': {
        const condition = resolveCondition(context, line.condition);
        if (condition !== null) where.push(condition);
        break;
      }
      case 'load':
        loads.push(...resolveLoad(context, entity, line));
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
      case 'exists':
      case 'count':
        if (cardinality !== 'many')
          wrong(resolution, 'two-answers', line.span, `${label} says ${cardinality} and ${line.kind}. Keep one of the two.`);
        cardinality = line.kind;
        break;
      case 'lift':
        if (isWall(resolution, line.wall, label)) lifts.push(line.wall.text);
        break;
      case 'note':
        note = line.text.value;
        break;
      default:
    }
  }
  return { where, limit, offset, loads: merged(resolution, loads), lifts, cardinality, note };
}

/** Whether a wall that the query sees over is one of the text's. */
function isWall(resolution: Resolution, wall: Name, label: string): boolean {
  const { walls, references } = resolution;
  refer(references, wall, 'wall');
  if (walls.has(wall.text)) return true;
  wrong(resolution, 'unknown-wall', wall.span, `${label}: there is no wall ${wall.text}.${didYouMean(wall.text, walls)}`);
  return false;
}

/** The text of a query without a head, resolved beside a model's own declarations. */
export function resolveQueryText(
  resolution: Resolution,
  text: string,
  parameters: readonly ParameterSyntax[],
  given: ReadonlyMap<string, number>,
): Query | null {
  const syntax = parseQuery(text);
  for (const finding of syntax.findings) resolution.findings.push(finding);
  const span = { start: 0, end: text.length };
  const query = resolveQuery(resolution, { name: null, parameters, lines: syntax.lines, span, given });
  return syntax.findings.some((finding) => finding.weight === 'error') ? null : query;
}

function resolveParameter(resolution: Resolution, parameter: ParameterSyntax, label: string): Parameter | null {
  const { name, type, many, optional } = parameter;
  if (type.kind === 'named' && !resolution.choices.has(type.name.text)) {
    const entity = findEntity(resolution, type.name, label);
    return entity === null ? null : { name: name.text, type: { kind: 'row', entity: entity.name }, many, optional };
  }
  const resolved = resolveType(resolution, type);
  return resolved === null ? null : { name: name.text, type: resolved, many, optional };
}
