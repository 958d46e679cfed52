import type { Expr, Span, WallSyntax } from '../notation/index.js';
import type { Context } from './context.js';
import { type EntityDraft, findEntity, type Resolution, scopeOwners, wrong } from './draft.js';
import { type Expression, someExpression } from './expression.js';
import { reading } from './expressions.js';
import type { Wall, WallLine } from './model.js';
import { resolvePins } from './pins.js';
import { refer } from './references.js';

type Line<Kind extends WallSyntax['lines'][number]['kind']> = Extract<WallSyntax['lines'][number], { readonly kind: Kind }>;

/** The walls of a text, by name; of two of one name the first. Lines that are wrong are left out of theirs, and told. */
export function resolveWalls(resolution: Resolution, syntaxes: readonly WallSyntax[]): ReadonlyMap<string, Wall> {
  const walls = new Map<string, Wall>();
  for (const syntax of syntaxes) {
    const { text, span } = syntax.name;
    refer(resolution.references, syntax.name, 'wall', '', true);
    if (walls.has(text)) wrong(resolution, 'name-clash', span, `There is a wall ${text} already. Rename one of the two.`);
    else walls.set(text, resolveWall(resolution, syntax));
  }
  return walls;
}

function resolveWall(resolution: Resolution, syntax: WallSyntax): Wall {
  const { name, on, span, head } = syntax;
  const label = `wall ${name.text}`;
  const lines = syntax.lines.filter((line): line is Line<'where'> => line.kind === 'where');
  const owners = new Set(lines.flatMap((line) => (isOwner(resolution, line, label) ? [line.entity.text] : [])));
  const conditions = new Map<string, readonly WallLine[]>();
  for (const entity of resolution.entities.values()) {
    const own = scopeOwners(entity);
    const found = lines.flatMap((line) => {
      if (!owners.has(line.entity.text)) return [];
      if (own.includes(line.entity.text)) return lineFor(resolution, entity, line.condition, null, label);
      return kindsSpokenOf(resolution, entity, line.entity.text).flatMap((kind) => {
        const kinds = kind.kinds?.concrete.map((concrete) => concrete.entity) ?? [kind.name];
        return lineFor(resolution, kind, line.condition, kinds, label);
      });
    });
    if (found.length > 0) conditions.set(entity.name, found);
  }
  tellOpenings(resolution, Array.from(conditions.values()).flat(), label);
  const unless = syntax.lines.filter((line): line is Line<'unless'> => line.kind === 'unless');
  return {
    name: name.text,
    reads: on !== 'write',
    writes: on !== 'read',
    conditions,
    pins: resolvePins(resolution, syntax, label),
    unless: unless.flatMap(({ condition }) => freeing(resolution, condition, label) ?? []),
    note: syntax.lines.find((line): line is Line<'note'> => line.kind === 'note')?.text.value ?? null,
    span,
    head,
  };
}

/** Whether a line is for an entity or a mixin of the text. */
function isOwner(resolution: Resolution, { entity }: Line<'where'>, label: string): boolean {
  if (resolution.mixins.has(entity.text)) {
    refer(resolution.references, entity, 'mixin');
    return true;
  }
  return findEntity(resolution, entity, `${label} of ${entity.text}`) !== null;
}

/** The kinds nearest below an entity that a line is for, where it is not for the entity itself: their rows are rows of it. */
function kindsSpokenOf(resolution: Resolution, entity: EntityDraft, owner: string): EntityDraft[] {
  return (entity.kinds?.kinds ?? []).flatMap((name) => {
    const kind = resolution.entities.get(name);
    if (kind === undefined) return [];
    return scopeOwners(kind).includes(owner) ? [kind] : kindsSpokenOf(resolution, kind, owner);
  });
}

/** A line as it holds for the rows of an entity; none, with a finding, where it means nothing there. */
function lineFor(
  resolution: Resolution,
  entity: EntityDraft,
  condition: Expr,
  kinds: readonly string[] | null,
  label: string,
): WallLine[] {
  const holds = reading.condition(contextFor(resolution, entity, label), condition);
  return holds === null ? [] : [{ kinds, holds }];
}

/** A condition on the actor: no row is at hand, since a wall has lines for several entities. */
function freeing(resolution: Resolution, condition: Expr, label: string): Expression | null {
  return reading.condition({ ...contextFor(resolution, null, `${label}, unless`), me: 'at hand' }, condition);
}

function contextFor(resolution: Resolution, entity: EntityDraft | null, label: string): Context {
  const parameters = new Map<string, never>();
  return { resolution, reading, entity, pivot: null, parameters, label, query: null, reach: 'all', me: 'bound', resolving: [] };
}

/** What lets rows through where a value of the actor is missing. */
const OPENING: ReadonlySet<string> = new Set(['not', 'is null', 'none', '<>', 'coalesce', 'not in', 'not like', 'not between']);

/** Says where a wall would open for an actor who lacks a value that it asks for. */
function tellOpenings(resolution: Resolution, lines: readonly WallLine[], label: string): void {
  const told = new Set<number>();
  const tell = (name: string, span: Span) => {
    if (told.has(span.start)) return;
    told.add(span.start);
    resolution.findings.push({
      weight: 'warning',
      code: 'wall-opens',
      span,
      fixes: [],
      message: `${label} opens when ${name} is null: what stands here is then true, or may be. Ask for what is wanted, as in “branch = me.branch”, rather than for what is not.`,
    });
  };
  for (const { holds } of lines)
    someExpression(holds, (part) => {
      if (!OPENING.has(formOf(part))) return false;
      someExpression(part, (inner) => {
        // Who is at work is never null where somebody is.
        if (inner.kind === 'me' && inner.name !== 'me') tell(inner.name, part.span);
        return false;
      });
      return false;
    });
}

/** What an expression is, as far as it can open a wall. */
function formOf(expression: Expression): string {
  switch (expression.kind) {
    case 'binary':
      return expression.operator;
    case 'function':
      return expression.name;
    case 'quantified':
      return expression.quantifier;
    case 'is null':
      return expression.negated ? '' : 'is null';
    case 'in':
    case 'like':
    case 'between':
      return expression.negated ? `not ${expression.kind}` : '';
    default:
      return expression.kind;
  }
}
