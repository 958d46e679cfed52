import type { DeleteRule, DialectName, GeneratorSyntax, Span } from '../notation/index.js';
import type { TableName } from '../sql/index.js';
import type { DefaultValue, ValueType, Wire } from '../values/index.js';
import type { Expression, ExpressionType } from './expression.js';

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

/** What a field says of its column beyond its type: how a database that others made declares it. */
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
export interface Kept {
  readonly sql: string;
  readonly dialect: DialectName;
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

export interface Order {
  readonly expression: Expression;
  readonly descending: boolean;
}

/** What tells an entity's rows apart: one field, or several in order. */
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
  readonly mixins: readonly string[];
  readonly kept: readonly Kept[];
  readonly note: string | null;
  readonly span: Span;
  readonly head: Span;
}

/** How rows are found over a role. */
export type Way =
  /** This entity's table holds the key columns: one, or one for each part of a composite key. */
  | { readonly kind: 'key'; readonly columns: readonly string[] }
  /** The target's table holds the key columns. */
  | { readonly kind: 'child'; readonly columns: readonly string[] }
  /** A pivot holds both: `near` points at this entity, `far` at the target. */
  | {
      readonly kind: 'pivot';
      readonly table: TableName;
      readonly near: readonly string[];
      readonly far: readonly string[];
      readonly symmetric: boolean;
    };

/** One end of a relation, as seen from the entity that has it. */
export interface Role {
  readonly name: string;
  readonly entity: string;
  readonly target: string;
  readonly relation: string;
  readonly knows: 'one' | 'at most one' | 'many';
  readonly way: Way;
  readonly orderBy: readonly Order[];
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
  readonly kept: readonly Kept[];
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
  readonly table: Chosen<TableName>;
  readonly ends: readonly [PivotEnd, PivotEnd];
  readonly fields: readonly Field[];
  readonly uniques: readonly ColumnGroup[];
  readonly indexes: readonly ColumnGroup[];
  readonly checks: readonly Condition[];
  /** What stands in or beside the pivot's table. */
  readonly keptInTable: readonly Kept[];
  readonly repeats: boolean;
  readonly withoutKey: boolean;
}

export type Relation = KeyRelation | PivotRelation;

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

export interface Parameter {
  readonly name: string;
  readonly type: ExpressionType;
  readonly optional: boolean;
}

export interface Load {
  readonly role: Role;
  /** Null: all fields that are not hidden. */
  readonly fields: readonly string[] | null;
  readonly pivotFields: readonly string[] | null;
  readonly where: Expression | null;
  readonly orderBy: readonly Order[];
  readonly loads: readonly Load[];
  readonly span: Span;
}

export type Cardinality = 'many' | 'first' | 'one' | 'count';

export interface Query {
  readonly name: string | null;
  readonly entity: string;
  readonly parameters: readonly Parameter[];
  readonly where: readonly Expression[];
  readonly orderBy: readonly Order[];
  readonly limit: Expression | null;
  readonly offset: Expression | null;
  readonly loads: readonly Load[];
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
  readonly kept: readonly Kept[];
  readonly choices: ReadonlyMap<string, Choice>;
  readonly entities: ReadonlyMap<string, Entity>;
  readonly relations: ReadonlyMap<string, Relation>;
  readonly scopes: ReadonlyMap<string, Scope>;
  readonly queries: ReadonlyMap<string, Query>;
  readonly samples: readonly Sample[];
}

/** The pivot relation of this name. @throws where the model has none, which only a bug can bring about. */
export function pivotOf(model: Model, relation: string): PivotRelation {
  const found = model.relations.get(relation);
  if (found?.kind !== 'pivot') throw new Error(`no pivot relation ${relation}`);
  return found;
}

/** The entity of this name. @throws where the model has none, which only a bug can bring about. */
export function entityOf(model: Pick<Model, 'entities'>, name: string): Entity {
  const entity = model.entities.get(name);
  if (entity === undefined) throw new Error(`no entity ${name}`);
  return entity;
}

/** The column of a stored field. @throws where the fields hold none of that name. */
export function fieldOf(fields: readonly Field[], name: string): Field {
  const field = fields.find((candidate) => candidate.name === name);
  if (field === undefined) throw new Error(`no field ${name}`);
  return field;
}
