import type { EntityDraft, Resolution } from './draft.js';
import type { ExpressionType } from './expression.js';
import type { Field, PivotRelation, Role } from './model.js';

/** Where an expression stands: whose names it sees, and what it may use. */
export interface Context {
  readonly resolution: Resolution;
  /** The row at hand; null where an expression stands apart from any. */
  readonly entity: EntityDraft | null;
  /** The pivot over which the row at hand was reached; its fields are there by its table's name. */
  readonly pivot: PivotRelation | null;
  readonly parameters: ReadonlyMap<string, ExpressionType>;
  /** What the expression belongs to, as a message begins: `Loan`, `query overdue`. */
  readonly label: string;
  /**
   * *row*: only the row's own stored fields and what never changes (a check). *own*: the row's own fields, derived
   * ones too. *all*: everything.
   */
  readonly reach: 'row' | 'own' | 'all';
  /** The derived fields and scopes that are being resolved, to find loops. */
  readonly resolving: readonly string[];
}

export type Member =
  | { readonly kind: 'field'; readonly field: Field }
  | { readonly kind: 'role'; readonly role: Role }
  | { readonly kind: 'derived' }
  | { readonly kind: 'scope' };

/** What a name means for an entity. */
export function memberOf(resolution: Resolution, entity: EntityDraft, name: string): Member | null {
  const field = entity.fields.find((candidate) => candidate.name === name);
  if (field !== undefined) return { kind: 'field', field };
  const role = entity.roles.find((candidate) => candidate.name === name);
  if (role !== undefined) return { kind: 'role', role };
  if (entity.lines.some((line) => line.kind === 'derived' && line.name.text === name)) return { kind: 'derived' };
  const scope = resolution.scopeLines.get(name);
  if (scope !== undefined && [entity.name, ...entity.mixins].some((owner) => scope.has(owner))) return { kind: 'scope' };
  return null;
}

/** Every name that means something for an entity. */
export function memberNames(resolution: Resolution, entity: EntityDraft): string[] {
  const scopes = [...resolution.scopeLines].filter(([, lines]) =>
    [entity.name, ...entity.mixins].some((owner) => lines.has(owner)),
  );
  return [
    ...entity.fields.map((field) => field.name),
    ...entity.roles.map((role) => role.name),
    ...entity.lines.flatMap((line) => (line.kind === 'derived' ? [line.name.text] : [])),
    ...scopes.map(([name]) => name),
  ];
}
