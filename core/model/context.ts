import type { Name } from '../notation/index.js';
import type { EntityDraft, Resolution } from './draft.js';
import type { ExpressionType } from './expression.js';
import type { Field, PivotRelation, Role } from './model.js';
import { refer } from './references.js';

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
export function memberOf({ references, scopeLines }: Resolution, entity: EntityDraft, name: Name): Member | null {
  const field = entity.fields.find((candidate) => candidate.name === name.text);
  if (field !== undefined) {
    refer(references, name, 'field', field.mixin ?? entity.name);
    return { kind: 'field', field };
  }
  const role = entity.roles.find((candidate) => candidate.name === name.text);
  if (role !== undefined) {
    refer(references, name, 'role', entity.name);
    return { kind: 'role', role };
  }
  const derived = entity.lines.find((line) => line.kind === 'derived' && line.name.text === name.text);
  if (derived !== undefined) {
    refer(references, name, 'field', entity.owners.get(derived) ?? entity.name);
    return { kind: 'derived' };
  }
  const scope = scopeLines.get(name.text);
  if (scope === undefined || ![entity.name, ...entity.mixins].some((owner) => scope.has(owner))) return null;
  refer(references, name, 'scope');
  return { kind: 'scope' };
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
