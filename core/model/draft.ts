import {
  type DialectName,
  type EntityLine,
  type Expr,
  type Finding,
  type Fix,
  type MixinSyntax,
  type Name,
  nearest as nearestOf,
  type PathSyntax,
  type Span,
} from '../notation/index.js';
import type { TableName } from '../sql/index.js';
import type { Role } from './expression.js';
import type { AnyPivotRelation, Choice, Chosen, DerivedField, Field, Key, Kinds, PolymorphicRole, Scope } from './model.js';
import { type Reference, refer } from './references.js';

/** An entity while its parts are being resolved. */
export interface EntityDraft {
  readonly name: string;
  /** The relation whose pivot's rows these are; null for those of an entity. */
  readonly pivotOf: string | null;
  readonly table: Chosen<TableName>;
  readonly fields: readonly Field[];
  /** The same by their names in small letters. */
  readonly fieldNames: ReadonlyMap<string, Field>;
  readonly key: Key;
  /** Its lines and those of its mixins. */
  readonly lines: readonly EntityLine[];
  /** The mixin that a line was taken in from. */
  readonly owners: ReadonlyMap<EntityLine, string>;
  readonly mixins: readonly string[];
  readonly roles: Role[];
  readonly polymorphic: PolymorphicRole[];
  /** Both sorts of roles by their names in small letters; of two of one name the first. */
  readonly roleNames: Map<string, Role | PolymorphicRole>;
  /** The entity that it is a kind of, and what it is among that one’s kinds. */
  readonly base: EntityDraft | null;
  readonly kinds: Kinds | null;
  readonly given: boolean;
  /** Filled on demand, since a derived field may stand on another. */
  readonly derived: Map<string, DerivedField | null>;
  readonly span: Span;
  readonly head: Span;
}

export interface ScopeLineDraft {
  readonly condition: Expr;
  readonly span: Span;
}

/** The state that the resolvers share while a text becomes a model. */
export interface Resolution {
  /** The dialect that the tree's SQL is of. */
  readonly dialect: DialectName;
  /** Tables have nothing but what the text states. */
  readonly asStated: boolean;
  readonly findings: Finding[];
  /** Every name that was found to mean something, by where it begins. */
  readonly references: Map<number, Reference>;
  readonly choices: Map<string, Choice>;
  readonly mixins: Map<string, MixinSyntax>;
  readonly entities: Map<string, EntityDraft>;
  /** The entity whose rows are at work, as the tree's head says; null where it names none. */
  readonly actor: string | null;
  /** The names of the walls that the text declares. */
  readonly walls: ReadonlySet<string>;
  /** Entities that the text declares but the model leaves out, with the reason in a word. */
  readonly leftOut: Map<string, 'not built' | 'wrong'>;
  /** Members that the text declares but the model leaves out, as `Entity.member`. */
  readonly leftOutMembers: Set<string>;
  readonly pivots: Map<string, AnyPivotRelation>;
  /** Of bases whose kinds share a table: the column of each field that a kind has of its own, and whose it is. */
  readonly sharedColumns: Map<string, Map<string, string>>;
  /** What each entity is among the kinds of its base; of those alone that are a kind or have some. */
  readonly kinds: Map<string, Kinds>;
  /** What a polymorphic relation stores for each kind of row that it leads to. */
  readonly marks: Map<string, ReadonlyMap<string, string>>;
  /** The paths that the text declares, by `Entity.name`. */
  readonly pathLines: Map<string, PathSyntax>;
  /** A path as the role that it makes; null where there is none of that name, or, with a finding, where it is wrong. */
  pathOf(entity: EntityDraft, name: string): Role | null;
  readonly scopeLines: Map<string, Map<string, ScopeLineDraft>>;
  readonly scopes: Map<string, Scope>;
  /** What is counted while the text is read, since there can be only so many. */
  readonly counts: { fields: number; readonly tooMany: Set<string>; openPaths: number; readonly wrongScopes: Set<string> };
}

/** An entity and the bases above it, nearest first. */
export function lineageOf(entity: EntityDraft): EntityDraft[] {
  return entity.base === null ? [entity] : [entity, ...lineageOf(entity.base)];
}

/** The names of the derived fields that an entity's own lines and mixins declare, in small letters. */
export function derivedNames({ lines }: EntityDraft): string[] {
  return lines.flatMap((line) => (line.kind === 'derived' ? [line.name.text.toLowerCase()] : []));
}

/** Has an entity, or a base of it, a derived field of this name? */
export function hasDerived(entity: EntityDraft, name: string): boolean {
  return lineageOf(entity).some((one) => derivedNames(one).includes(name.toLowerCase()));
}

/** The names under which a scope may speak of an entity: its own, its bases', and those of the mixins that they use. */
export function scopeOwners(entity: EntityDraft): string[] {
  return lineageOf(entity).flatMap((one) => [one.name, ...one.mixins]);
}

/** Gives an entity, and every kind of it, a role. */
export function addRole(resolution: Resolution, role: Role | PolymorphicRole): void {
  const give = (name: string) => {
    const draft = resolution.entities.get(name);
    if (draft === undefined) return;
    const lower = role.name.toLowerCase();
    if (!draft.roleNames.has(lower)) draft.roleNames.set(lower, role);
    if ('branches' in role) draft.polymorphic.push(role);
    else draft.roles.push(role);
    for (const kind of draft.kinds?.kinds ?? []) give(kind);
  };
  give(role.entity);
}

/** Records an error. Gives null, so that a resolver can say it and stop in one line. */
export function wrong(resolution: Resolution, code: string, span: Span, message: string, fixes: readonly Fix[] = []): null {
  resolution.findings.push({ weight: 'error', code, message, span, fixes });
  return null;
}

/** Records that something is right but not built yet, and so left out. */
export function notBuilt(resolution: Resolution, span: Span, what: string): null {
  resolution.findings.push({
    weight: 'note',
    code: 'not-built-yet',
    message: `Not built yet: ${what}. It is left out.`,
    span,
    fixes: [],
  });
  return null;
}

/** The draft of an entity, or null with a finding that says why there is none. */
export function findEntity(resolution: Resolution, name: Name, whose: string): EntityDraft | null {
  const entity = resolution.entities.get(name.text);
  if (entity !== undefined) {
    refer(resolution.references, name, 'entity');
    return entity;
  }
  const reason = resolution.leftOut.get(name.text);
  if (reason !== undefined) {
    resolution.findings.push({
      weight: 'note',
      code: reason === 'not built' ? 'not-built-yet' : 'left-out',
      message: `${whose} is left out, since ${name.text} is${reason === 'not built' ? ' not built yet' : ' left out for its own error'}.`,
      span: name.span,
      fixes: [],
    });
    return null;
  }
  return unknownName(resolution, name, 'entity', resolution.entities.keys());
}

const MOST_GUESSES = 300;

/** Records a name that nothing bears, with the nearest one that something does. */
export function unknownName(resolution: Resolution, name: Name, what: string, known: Iterable<string>): null {
  // In a text of which little is right, what was meant is of no help to anybody, and takes long to find.
  const near = resolution.findings.length > MOST_GUESSES ? null : nearestOf(name.text, known);
  const fixes = near === null ? [] : [{ title: `Write ${near}`, edits: [{ span: name.span, text: near }] }];
  return wrong(
    resolution,
    `unknown-${what.split(/[ ,]/)[0]}`,
    name.span,
    `There is no ${what} ${name.text}.${near === null ? '' : ` Did you mean ${near}?`}`,
    fixes,
  );
}

/**
 * Records that an entity has no member of this name; where the text declares one that is left out, only that
 * whatever names it is left out with it.
 */
export function unknownMember(
  resolution: Resolution,
  entity: EntityDraft,
  name: Name,
  whose: string,
  what: string,
  known: Iterable<string>,
): null {
  if (!resolution.leftOutMembers.has(`${entity.name}.${name.text}`)) return unknownName(resolution, name, what, known);
  resolution.findings.push({
    weight: 'note',
    code: 'left-out',
    message: `${whose} is left out, since ${entity.name}.${name.text} is.`,
    span: name.span,
    fixes: [],
  });
  return null;
}
