import type { DeleteRule, DialectName, GeneratorSyntax, LoadWay, Span } from '../notation/index.js';
import type { StatedForm, TableName } from '../sql/index.js';
import type { DefaultValue, ValueType, Wire } from '../values/index.js';
import type { Expression, ExpressionType, Order, Role } from './expression.js';

/** Where a part of the model comes from: the text says so, or a convention filled it in. */
export type Origin =
  | { readonly kind: 'stated'; readonly span: Span }
  /** `rule` says the convention in words that a person can check. */
  | { readonly kind: 'convention'; readonly rule: string };

/** Something that is either stated or filled in, with the word which. */
export interface Chosen<T> {
  readonly value: T;
  readonly origin: Origin;
}

/** The declaration of a field's column beyond its type, as a database that others made has it. */
export interface PhysicalColumn {
  /** The declared type exactly; nothing then keeps other values out. */
  readonly declaration: string | null;
  readonly collation: string | null;
  readonly generated: { readonly sql: string; readonly stored: boolean } | null;
  /** A key's column that says NOT NULL of itself. */
  readonly notNull: boolean;
  /** A key that the engine numbers, and uses no number of twice. */
  readonly neverReused: boolean;
}

/** A column of which the text says nothing beyond its type. */
export const PLAIN_COLUMN: PhysicalColumn = {
  declaration: null,
  collation: null,
  generated: null,
  notNull: false,
  neverReused: false,
};

/** How the tables of a database that others made are written; each part has a sentence in the tree's head. */
export interface PhysicalStyle {
  /** The dialect that all this is said of. */
  readonly dialect: DialectName;
  /** How a type is declared, by the type's word, with n, p and s for its numbers; such a column has no check of its type. */
  readonly types: ReadonlyMap<string, string>;
  /** Tables have nothing but what the text states: no check of a type, no name of a constraint, no index for a key. */
  readonly asStated: boolean;
  /** Foreign keys do not name the columns that they point at. */
  readonly unnamedReferences: boolean;
}

/** SQL that stands in a database and that the notation has no word for. */
export interface KeptSql {
  readonly sql: string;
  readonly dialect: DialectName;
  /** A part of a table, or a statement that makes one thing. */
  readonly form: StatedForm;
  /** What a statement makes, in a word of SQL; null of a part of a table. */
  readonly makes: string | null;
  /** In what it reaches beyond the tables of its own database, in words. */
  readonly reaches: readonly string[];
  readonly span: Span;
}

export interface Field {
  readonly name: string;
  readonly type: ValueType;
  readonly column: Chosen<string>;
  readonly required: boolean;
  readonly key: boolean;
  readonly unique: { readonly message: string | null } | null;
  readonly default: DefaultValue | null;
  /** The values that an `in (…)` allows. */
  readonly allowed: readonly Wire[] | null;
  readonly onUpdateNow: boolean;
  readonly physical: PhysicalColumn;
  readonly hidden: boolean;
  readonly internal: boolean;
  readonly fixed: boolean;
  readonly title: string | null;
  readonly note: string | null;
  /** The mixin that the field was taken in from. */
  readonly mixin: string | null;
  /** The entity that declares it: of a kind, itself or a base above it; of a pivot’s field, the relation. */
  readonly owner: string;
  readonly span: Span;
}

export interface DerivedField {
  readonly name: string;
  readonly expression: Expression;
  readonly type: ExpressionType;
  readonly note: string | null;
  readonly span: Span;
}

/** A unique or an index over fields and roles; a role stands for its key column. */
export interface ColumnGroup {
  readonly members: readonly string[];
  readonly columns: readonly string[];
  readonly message: string | null;
  readonly note: string | null;
  /** Its name in the database, where the text states one. */
  readonly named: string | null;
  /** Of a unique: the index that keeps it, rather than a constraint. */
  readonly asIndex: string | null;
  readonly span: Span;
}

export interface Condition {
  readonly name: string;
  readonly expression: Expression;
  readonly message: string | null;
  /** Its name in the database, where the text states one. */
  readonly named: string | null;
  readonly note: string | null;
  readonly span: Span;
}

/** The primary key of an entity: one field, or several in order. */
export interface Key {
  readonly fields: readonly Field[];
  /** The columns of the fields, in the same order. */
  readonly columns: readonly string[];
  /** The field's own type; of several, a composite one. */
  readonly type: ValueType;
  /** The name under which an answer has it: the field's; of several fields, `COMPOSITE_KEY`. */
  readonly name: string;
  /** No column of its own: rows are told apart by the number that the engine gives each. */
  readonly byRow: boolean;
  /** The constraint's name in the database, where the text states one. */
  readonly named: string | null;
}

/** How the kinds of a base are stored. */
export type KindsStorage =
  /** All in the base’s table; a kind’s own fields are empty for the others. */
  | { readonly kind: 'single table'; readonly mark: string }
  /** What all have in the base’s table, what a kind has of its own in a table beside it, under the same key. */
  | { readonly kind: 'joined tables'; readonly mark: string }
  /** Each concrete kind has all its columns in a table of its own. */
  | { readonly kind: 'separate tables' }
  /** A kind’s own fields stand in one json column of the base’s table; keys of other rows keep columns of their own. */
  | { readonly kind: 'json'; readonly column: string; readonly mark: string };

/** A kind that rows can be of, and what is stored to say so. */
export interface ConcreteKind {
  readonly entity: string;
  readonly mark: string;
}

/** What an entity is among the kinds of one base. */
export interface Kinds {
  /** The base at the top, which says how all kinds are stored. */
  readonly root: string;
  /** The entity that this one is a kind of; null for the base at the top. */
  readonly base: string | null;
  readonly storage: KindsStorage;
  readonly abstract: boolean;
  /** What is stored to say that a row is of this kind; it means nothing where the entity is abstract. */
  readonly mark: string;
  /** Its own kinds, without theirs. */
  readonly kinds: readonly string[];
  /** What a row of it can be: itself, unless it is abstract, and every concrete kind below. */
  readonly concrete: readonly ConcreteKind[];
}

/** The name under which an answer has what kind a row is, where that differs from row to row; no field can be called so. */
export const KIND_NAME = '~kind';

/** Rows that come along with every row of an entity. */
export interface AlwaysLoad {
  readonly load: Load;
  /** Not again for the rows that came along so. */
  readonly once: boolean;
}

/** The name of a composite key where a row has to bear it; no field can be called so. */
export const COMPOSITE_KEY = '~key';

export interface Entity {
  readonly name: string;
  readonly table: Chosen<TableName>;
  readonly fields: readonly Field[];
  readonly derived: readonly DerivedField[];
  readonly key: Key;
  readonly uniques: readonly ColumnGroup[];
  readonly indexes: readonly ColumnGroup[];
  readonly checks: readonly Condition[];
  readonly rules: readonly Condition[];
  readonly shownAs: Chosen<Expression>;
  readonly orderBy: readonly Order[];
  readonly roles: readonly Role[];
  /** Roles that lead to rows of several entities. */
  readonly polymorphic: readonly PolymorphicRole[];
  /** Relations that are derived from others. */
  readonly paths: readonly Role[];
  readonly alwaysLoad: readonly AlwaysLoad[];
  /** Null where it is no kind and has none. */
  readonly kinds: Kinds | null;
  /** The table is somebody else’s: it is read, and nothing is ever put on it. */
  readonly given: boolean;
  readonly mixins: readonly string[];
  readonly kept: readonly KeptSql[];
  readonly note: string | null;
  readonly span: Span;
  readonly head: Span;
}

/** A role that leads to rows of several entities: one ordinary role for each, all under its name. */
export interface PolymorphicRole {
  readonly name: string;
  readonly entity: string;
  readonly owner: string;
  readonly relation: string;
  readonly knows: 'one' | 'at most one' | 'many';
  readonly branches: readonly Role[];
  readonly note: string | null;
  readonly span: Span;
}

interface RelationCommon {
  readonly name: string;
  readonly onDelete: Chosen<DeleteRule>;
  readonly onUpdate: Chosen<DeleteRule>;
  /** The foreign key is looked at when the transaction ends. */
  readonly deferred: boolean;
  /** The foreign key's name in the database, where the text states one. */
  readonly named: string | null;
  /** Foreign keys exactly as they stand, each instead of the one over the same columns that would be made. */
  readonly kept: readonly KeptSql[];
  readonly note: string | null;
  readonly span: Span;
  readonly head: Span;
}

/** A column that holds (a part of) another row's key. */
export interface KeyColumn extends Chosen<string> {
  /** Whether the child's entity declares the column as a field, too. */
  readonly declared: boolean;
}

/** A relation that key columns store: one-to-many, or one-to-one with a unique. */
export interface KeyRelation extends RelationCommon {
  readonly kind: 'key';
  readonly form: 'one-to-many' | 'one-to-one';
  /** Holds the key column. */
  readonly child: string;
  readonly parent: string;
  /** One for each part of the parent's key, in its order. */
  readonly columns: readonly KeyColumn[];
  readonly required: boolean;
  /** The role from child to parent; null where nobody named it. */
  readonly childRole: string | null;
  readonly parentRole: string | null;
}

/** A column of a pivot that holds (a part of) a row's key; a line below the pivot may say more of it. */
export interface PivotColumn extends Chosen<string> {
  readonly field: Field | null;
}

/** One of the entities that a polymorphic relation leads to. */
export interface PolymorphicTarget {
  readonly entity: string;
  /** What is stored to say so: of a base whose kinds have tables of their own, one for each kind. */
  readonly marks: readonly ConcreteKind[];
  /** Whether the text says the mark, rather than the convention. */
  readonly stated: boolean;
  /** The role back; null where nobody named it. */
  readonly role: string | null;
  readonly knows: 'one' | 'at most one' | 'many';
}

/** How one row points at rows of several entities. */
export type PolymorphicStorage =
  | {
      readonly kind: 'type and id';
      readonly type: Chosen<string>;
      readonly id: Chosen<string>;
      /** That of all targets’ keys, or text where they differ. */
      readonly idType: ValueType;
      /** Triggers keep that the target is there, and carry the rules out. */
      readonly triggers: boolean;
    }
  /** A key column for each target, in their order, and a check that no two are filled. */
  | { readonly kind: 'one of'; readonly columns: readonly KeyColumn[] };

/** A relation from one entity to several. */
export interface PolymorphicRelation extends RelationCommon {
  readonly kind: 'polymorphic';
  readonly form: 'polymorphic';
  /** Holds the key columns. */
  readonly child: string;
  readonly childRole: string | null;
  readonly required: boolean;
  readonly targets: readonly PolymorphicTarget[];
  readonly storage: PolymorphicStorage;
}

export interface PivotEnd {
  readonly entity: string;
  /** The pivot's columns that hold this entity's key, one for each of its parts. */
  readonly columns: readonly PivotColumn[];
  /** The role of this entity over the pivot; null where nobody named it. */
  readonly role: string | null;
}

/** A relation that a table of pairs stores: many-to-many, or symmetric. */
export interface PivotRelation extends RelationCommon {
  readonly kind: 'pivot';
  readonly form: 'many-to-many' | 'symmetric';
  /** The entity whose table holds the pairs; null where the pivot is a table of its own. */
  readonly entity: string | null;
  /** The table is somebody else’s. */
  readonly given: boolean;
  readonly table: Chosen<TableName>;
  readonly ends: readonly [PivotEnd, PivotEnd];
  readonly fields: readonly Field[];
  readonly uniques: readonly ColumnGroup[];
  readonly indexes: readonly ColumnGroup[];
  readonly checks: readonly Condition[];
  /** What stands in or beside the pivot's table. */
  readonly keptInTable: readonly KeptSql[];
  readonly repeats: boolean;
  readonly withoutKey: boolean;
}

/**
 * Many-to-many from one entity to several: a table of pairs with a key on one side, and on the other type and id, or a key for
 * each.
 */
export interface PolymorphicPivotRelation extends Omit<PivotRelation, 'kind' | 'form' | 'ends'> {
  readonly kind: 'polymorphic pivot';
  readonly form: 'polymorphic many-to-many';
  readonly near: PivotEnd;
  /** The role from near to the targets; null where nobody named it. */
  readonly targets: readonly PolymorphicTarget[];
  readonly storage: PolymorphicStorage;
}

/** The columns in which a pivot holds what it leads to: type and id, or a key for each entity. */
export function farColumns({ storage }: Pick<PolymorphicPivotRelation, 'storage'>): readonly Chosen<string>[] {
  return storage.kind === 'one of' ? storage.columns : [storage.type, storage.id];
}

/** Whether the rows of a pivot's table have a number of their own: where a pair may repeat, or may have nulls in it. */
export function isNumbered(relation: AnyPivotRelation): boolean {
  if (relation.entity !== null || relation.withoutKey) return false;
  return relation.repeats || (relation.kind === 'polymorphic pivot' && relation.storage.kind === 'one of');
}

/** A relation over a table of pairs. */
export type AnyPivotRelation = PivotRelation | PolymorphicPivotRelation;

export type Relation = KeyRelation | PolymorphicRelation | AnyPivotRelation;

export interface Choice {
  readonly name: string;
  readonly values: readonly { readonly value: string; readonly title: string | null }[];
  readonly span: Span;
}

export interface Scope {
  readonly name: string;
  /** The condition for each entity that the scope speaks of. */
  readonly conditions: ReadonlyMap<string, Expression>;
  readonly span: Span;
  readonly head: Span;
}

/** A condition of a wall on the rows of an entity. */
export interface WallLine {
  /** The kinds of whose rows it has to be true, where it is not for all rows of the entity; null where it is. */
  readonly kinds: readonly string[] | null;
  readonly holds: Expression;
}

/** A value that a wall fills into a row: a field of it, or the row behind a to-one role. */
export interface Pin {
  readonly member:
    | { readonly kind: 'field'; readonly field: Field }
    /** One of the branches, where the role leads to several entities. */
    | { readonly kind: 'role'; readonly role: Role };
  /** What it is filled with: over the actor's own row. */
  readonly value: Expression;
  readonly span: Span;
}

/** A scope that always stands: it keeps rows from whoever is at work, unless something frees them from it. */
export interface Wall {
  readonly name: string;
  /** It keeps rows from being read. */
  readonly reads: boolean;
  /** It keeps rows from being written. */
  readonly writes: boolean;
  /** What holds for the rows of each entity that may be reached, all of it: lines for a mixin, a base or a kind among them. */
  readonly conditions: ReadonlyMap<string, readonly WallLine[]>;
  /** What is filled into new rows of each entity, and what nobody may give another value. */
  readonly pins: ReadonlyMap<string, readonly Pin[]>;
  /** Conditions on the actor, over the actor's own row, of which any frees from this wall. */
  readonly unless: readonly Expression[];
  readonly note: string | null;
  readonly span: Span;
  readonly head: Span;
}

export interface Parameter {
  readonly name: string;
  /** The type of its value; of a list, of each. */
  readonly type: ExpressionType;
  readonly many: boolean;
  readonly optional: boolean;
}

export interface Load {
  /** For a polymorphic role, its branch; each has a load of its own. */
  readonly role: Role;
  /** The role is such a branch: rows of the other branches stand under the same name in the answer. */
  readonly branch: boolean;
  /** Null: all fields that are not hidden. */
  readonly fields: readonly string[] | null;
  readonly pivotFields: readonly string[] | null;
  readonly where: Expression | null;
  readonly orderBy: readonly Order[];
  /** How many rows of one owner; null for all. */
  readonly limit: Expression | null;
  /**
   * One row of each owner stands in the answer, instead of a list: *first* of those that there are, or none; *one*, where an owner
   * that has none, or several, is an error.
   */
  readonly only: 'first' | 'one' | null;
  /** The way to load that the text states; null where it states none. */
  readonly by: LoadWay | null;
  readonly loads: readonly Load[];
  readonly span: Span;
}

/** A column of an answer that shows what it is told to, instead of rows with their fields. */
export interface ShownColumn {
  readonly name: string;
  readonly expression: Expression;
  readonly span: Span;
}

/** Something that a page reads of a query's rows. */
export interface ReadPath {
  /** As it is written. */
  readonly path: string;
  /** The roles on the way; `branch` where one name leads to rows of several entities. */
  readonly steps: readonly { readonly role: Role; readonly branch: boolean }[];
  /** The field at the end; null where related rows themselves are read. */
  readonly field: string | null;
  readonly span: Span;
}

/** How many rows, or what about them, a query answers with. */
export type Cardinality = 'many' | 'first' | 'one' | 'count' | 'exists';

export interface Query {
  readonly name: string | null;
  readonly entity: string;
  readonly parameters: readonly Parameter[];
  readonly where: readonly Expression[];
  /** What a flat answer shows; null where rows with their fields are answered. */
  readonly show: readonly ShownColumn[] | null;
  /** Rows of a flat answer that are the same in all columns stand there once. */
  readonly distinct: boolean;
  /** What the rows of one group have in common: none for one group of all rows; null where rows are not grouped. */
  readonly groupBy: readonly Expression[] | null;
  /** The condition on groups. */
  readonly having: Expression | null;
  readonly orderBy: readonly Order[];
  readonly limit: Expression | null;
  readonly offset: Expression | null;
  readonly loads: readonly Load[];
  /** What the page that uses the query reads of its rows; nothing where the text does not say. */
  readonly reads: readonly ReadPath[];
  /** The walls that the query sees over. */
  readonly lifts: readonly string[];
  readonly cardinality: Cardinality;
  readonly note: string | null;
  readonly span: Span;
}

export interface SampleRow {
  readonly name: string;
  readonly values: ReadonlyMap<string, SampleValue>;
  readonly span: Span;
}

/** A value of a sample row: a value, a moment of the clock, or another row. */
export type SampleValue =
  | { readonly kind: 'value'; readonly value: Wire }
  | { readonly kind: 'expression'; readonly expression: Expression }
  /** A row by its key, behind a role that leads to several entities. */
  | { readonly kind: 'key'; readonly entity: string; readonly key: Wire }
  | { readonly kind: 'row'; readonly entity: string; readonly row: string };

export interface SampleGenerator {
  readonly member: string;
  readonly generator: GeneratorSyntax;
  readonly span: Span;
}

export interface Sample {
  readonly entity: string;
  readonly count: number | null;
  readonly rows: readonly SampleRow[];
  readonly generators: readonly SampleGenerator[];
  readonly span: Span;
}

/** A whole design with every name resolved and every convention filled in. */
export interface Model {
  readonly title: string;
  readonly note: string | null;
  readonly actor: string | null;
  /** What now and today are in a try, as a timestamp in wire form; null for the real clock. */
  readonly clock: string | null;
  readonly dialect: DialectName;
  readonly physical: PhysicalStyle;
  /** What stands beside the tables: views, virtual tables, tables that the notation cannot speak of. */
  readonly kept: readonly KeptSql[];
  readonly choices: ReadonlyMap<string, Choice>;
  readonly entities: ReadonlyMap<string, Entity>;
  readonly relations: ReadonlyMap<string, Relation>;
  readonly scopes: ReadonlyMap<string, Scope>;
  readonly walls: ReadonlyMap<string, Wall>;
  readonly queries: ReadonlyMap<string, Query>;
  readonly samples: readonly Sample[];
  readonly meant: readonly MeantFinding[];
}

/** A finding that a person has answered: it is meant so. */
export interface MeantFinding {
  readonly code: string;
  /** The stretch of the text in which it is meant; null for all of it. */
  readonly within: Span | null;
  readonly why: string;
  readonly span: Span;
  /** The line that says so. */
  readonly head: Span;
}

/** The pivot relation of this name. @throws where the model has none, which only a bug can bring about. */
export function pivotOf(model: Model, relation: string): AnyPivotRelation {
  const found = model.relations.get(relation);
  if (found?.kind !== 'pivot' && found?.kind !== 'polymorphic pivot') throw new Error(`no pivot relation ${relation}`);
  return found;
}

/** The entity of this name. @throws where the model has none, which only a bug can bring about. */
export function entityOf(model: Pick<Model, 'entities'>, name: string): Entity {
  const entity = model.entities.get(name);
  if (entity === undefined) throw new Error(`no entity ${name}`);
  return entity;
}

/** An entity and the bases above it, the one at the top first. */
export function lineage(model: Pick<Model, 'entities'>, name: string): Entity[] {
  const entity = entityOf(model, name);
  const base = entity.kinds?.base ?? null;
  return base === null ? [entity] : [...lineage(model, base), entity];
}

/** The entity whose table has what `owner` declares, in a row that is read as `reader`: one of its kinds, or itself. */
export function tableEntity(model: Pick<Model, 'entities'>, reader: string, owner: string): string {
  const kinds = entityOf(model, owner).kinds;
  if (kinds === null) return owner;
  switch (kinds.storage.kind) {
    case 'single table':
    case 'json':
      return kinds.root;
    case 'joined tables':
      return owner;
    case 'separate tables':
      return reader;
  }
}

/** Does a role ask for rows of one kind only, of those that its relation leads to? */
export function isNarrowed(model: Pick<Model, 'relations'>, { relation, target, entity, way }: Role): boolean {
  const found = model.relations.get(relation);
  switch (found?.kind) {
    case 'key':
      return target !== (way.kind === 'key' ? found.parent : found.child);
    case 'polymorphic':
    case 'polymorphic pivot': {
      const holder = found.kind === 'polymorphic' ? found.child : found.near.entity;
      return target !== holder && !found.targets.some((one) => one.entity === target);
    }
    case 'pivot':
      return !found.ends.some((end) => end.entity === target) || !found.ends.some((end) => end.entity === entity);
    default:
      return false;
  }
}

/** Does an entity have a table of its own? A kind may stand in its base's, and an abstract one in those of its kinds. */
export function hasTable({ kinds }: Pick<Entity, 'kinds'>): boolean {
  switch (kinds?.storage.kind) {
    case 'single table':
    case 'json':
      return kinds.base === null;
    case 'separate tables':
      return !kinds.abstract;
    default:
      return true;
  }
}

/** The column of a stored field. @throws where the fields hold none of that name. */
export function fieldOf(fields: readonly Field[], name: string): Field {
  const field = fields.find((candidate) => candidate.name === name);
  if (field === undefined) throw new Error(`no field ${name}`);
  return field;
}
