import type { Expr, Name } from '../notation/index.js';
import { type EntityDraft, lineageOf, type Resolution, scopeOwners } from './draft.js';
import type { Expression, ExpressionType, Role } from './expression.js';
import type { AnyPivotRelation, Field, PolymorphicRole } from './model.js';
import { refer } from './references.js';

/** Where an expression stands: whose names it sees, and what it may use. */
export interface Context {
  readonly resolution: Resolution;
  readonly reading: ExpressionReading;
  /** The row at hand; null where an expression stands apart from any. */
  readonly entity: EntityDraft | null;
  /** The pivot over which the row at hand was reached; its fields are there by its table's name. */
  readonly pivot: AnyPivotRelation | null;
  readonly parameters: ReadonlyMap<string, ExpressionType>;
  /** The parameters that are lists, each with how many values are given; null where that is not known yet. Left out: none. */
  readonly lists?: ReadonlyMap<string, number | null>;
  /** The saved query whose parameters they are; null where they are of none. */
  readonly query: string | null;
  /** What the expression belongs to, as a message begins: `Loan`, `query overdue`. */
  readonly label: string;
  /**
   * *row*: only the row's own stored fields and what never changes (a check). *own*: the row's own fields, derived
   * ones too. *all*: everything.
   */
  readonly reach: 'row' | 'own' | 'all';
  /**
   * How the expression may speak of whoever is at work: by values that are *bound* beside the rows at hand, or as the row *at hand*
   * itself. Left out or null: it may not.
   */
  readonly me?: 'bound' | 'at hand' | null;
  /** The derived fields and scopes that are being resolved, to find loops. */
  readonly resolving: readonly string[];
  /** The terms of `group by`, where the expression speaks of a group of rows and not of one; else left out. */
  readonly group?: readonly Expression[];
  /** The columns that a flat answer shows, by the names that the query gives them. */
  readonly shown?: ReadonlyMap<string, Expression>;
}

/** How expressions are read: a path may hold some, which may hold paths. */
export interface ExpressionReading {
  /** The expression; null, with a finding, where it means nothing. */
  expression(context: Context, expr: Expr): Expression | null;
  /** The expression, where it is a condition. */
  condition(context: Context, expr: Expr): Expression | null;
}

export type Member =
  | { readonly kind: 'field'; readonly field: Field }
  /** A role, or a path, which is walked like one. */
  | { readonly kind: 'role'; readonly role: Role }
  | { readonly kind: 'polymorphic'; readonly role: PolymorphicRole }
  | { readonly kind: 'derived' }
  | { readonly kind: 'scope' };

/** The member of an entity that a name denotes; null where there is none. */
export function memberOf(resolution: Resolution, entity: EntityDraft, name: Name): Member | null {
  const { references, scopeLines } = resolution;
  const lower = name.text.toLowerCase();
  const field = entity.fieldNames.get(lower);
  if (field !== undefined && field.name === name.text) {
    if (entity.pivotOf === null) refer(references, name, 'field', field.mixin ?? field.owner);
    else refer(references, name, 'pivot field', entity.pivotOf);
    return { kind: 'field', field };
  }
  const role = entity.roleNames.get(lower);
  if (role !== undefined && role.name === name.text) {
    refer(references, name, 'role', role.owner);
    return 'branches' in role ? { kind: 'polymorphic', role } : { kind: 'role', role };
  }
  for (let above: EntityDraft | null = entity; above !== null; above = above.base) {
    const derived = above.lines.find((line) => line.kind === 'derived' && line.name.text === name.text);
    if (derived === undefined) continue;
    refer(references, name, 'field', above.owners.get(derived) ?? above.name);
    return { kind: 'derived' };
  }
  const path = resolution.pathOf(entity, name.text);
  if (path !== null) {
    refer(references, name, 'path', path.owner);
    return { kind: 'role', role: path };
  }
  const scope = scopeLines.get(name.text);
  if (scope === undefined || !scopeOwners(entity).some((owner) => scope.has(owner))) return null;
  refer(references, name, 'scope');
  return { kind: 'scope' };
}

/** Every name that means something for an entity. */
export function memberNames(resolution: Resolution, entity: EntityDraft): string[] {
  const scopes = [...resolution.scopeLines].filter(([, lines]) => scopeOwners(entity).some((owner) => lines.has(owner)));
  return [
    ...entity.fields.map((field) => field.name),
    ...entity.roles.map((role) => role.name),
    ...entity.polymorphic.map((role) => role.name),
    ...lineageOf(entity).flatMap((one) => one.lines.flatMap((line) => (line.kind === 'derived' ? [line.name.text] : []))),
    ...Array.from(resolution.pathLines.values()).flatMap((path) =>
      lineageOf(entity).some((one) => one.name === path.entity.text) ? [path.name.text] : [],
    ),
    ...scopes.map(([name]) => name),
  ];
}
