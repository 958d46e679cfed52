import type { ActorSyntax } from '../notation/index.js';
import { lineageOf, type Resolution, wrong } from './draft.js';
import type { Expression } from './expression.js';
import { reading } from './expressions.js';

/** On whose behalf something is done: the system's, nobody's, or that of a row of the actor's entity. */
export type ActorName =
  | { readonly kind: 'system' }
  | { readonly kind: 'nobody' }
  | { readonly kind: 'row'; readonly row: Expression };

/** An actor as a text names it; null, with a finding, where it names none. */
export function resolveActor(resolution: Resolution, syntax: ActorSyntax, label: string): ActorName | null {
  if (syntax.kind !== 'row') return { kind: syntax.kind };
  const { actor } = resolution;
  if (actor === null)
    return wrong(
      resolution,
      'no-actor',
      syntax.span,
      `${label}: nobody says whose rows are at work. Name their entity in the tree’s head, as in “actor Player”.`,
    );
  const row = resolveNamedRow(resolution, syntax, label);
  if (row === null) return null;
  const { type } = row;
  const entity = type.kind === 'row' ? resolution.entities.get(type.entity) : undefined;
  if (entity !== undefined && lineageOf(entity).some(({ name }) => name === actor)) return { kind: 'row', row };
  return wrong(resolution, 'actor-entity', syntax.span, `${label}: whoever is at work is a row of ${actor}, as in ${actor}(1).`);
}

/** A row that stands alone, as in `Loan(7)`; null, with a finding, where none is named. */
export function resolveNamedRow(
  resolution: Resolution,
  { target, span }: Extract<ActorSyntax, { kind: 'row' }>,
  label: string,
): Expression | null {
  const context = { resolution, reading, entity: null, pivot: null, parameters: new Map(), label, query: null } as const;
  return reading.expression({ ...context, reach: 'all', resolving: [] }, { kind: 'path', path: target, span });
}
