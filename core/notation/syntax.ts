import type { Span } from './finding.js';

/** A name as written, without quotes. */
export interface Name {
  readonly text: string;
  readonly span: Span;
}

/** A text literal, without quotes. */
export interface Text {
  readonly value: string;
  readonly span: Span;
}

export interface PhysicalName {
  readonly schema: Name | null;
  readonly name: Name;
  readonly span: Span;
}

// Expressions

export type BinaryOperator = 'or' | 'and' | '=' | '<>' | '<' | '<=' | '>' | '>=' | '||' | '+' | '-' | '*' | '/' | '%';

export type IntervalUnit = 'minute' | 'hour' | 'day' | 'week' | 'month' | 'year';

export type PathStep =
  | { readonly kind: 'member'; readonly name: Name; readonly span: Span }
  | { readonly kind: 'filter'; readonly condition: Expr; readonly span: Span };

export type PathRoot =
  | { readonly kind: 'me'; readonly span: Span }
  | { readonly kind: 'name'; readonly name: Name; readonly span: Span }
  | { readonly kind: 'row'; readonly entity: Name; readonly key: readonly Expr[] | null; readonly span: Span }
  | { readonly kind: 'cast'; readonly path: Path; readonly entity: Name; readonly span: Span };

/** A dotted path with its filters: `borrower.branch`, `loans[overdue]`, `Branch(north)`, `(subject as Ensemble).title`. */
export interface Path {
  readonly root: PathRoot;
  readonly steps: readonly PathStep[];
  readonly span: Span;
}

export type Expr =
  | { readonly kind: 'number'; readonly text: string; readonly span: Span }
  | { readonly kind: 'interval'; readonly amount: string; readonly unit: IntervalUnit; readonly span: Span }
  | { readonly kind: 'text'; readonly value: string; readonly span: Span }
  | { readonly kind: 'boolean'; readonly value: boolean; readonly span: Span }
  | { readonly kind: 'null' | 'today' | 'now'; readonly span: Span }
  | { readonly kind: 'parameter'; readonly name: string; readonly span: Span }
  | { readonly kind: 'case'; readonly branches: readonly CaseBranch[]; readonly otherwise: Expr | null; readonly span: Span }
  | { readonly kind: 'call'; readonly name: Name; readonly args: readonly Expr[]; readonly star: boolean; readonly span: Span }
  | { readonly kind: 'path'; readonly path: Path; readonly span: Span }
  | { readonly kind: 'binary'; readonly operator: BinaryOperator; readonly left: Expr; readonly right: Expr; readonly span: Span }
  | { readonly kind: 'not' | 'negate'; readonly operand: Expr; readonly span: Span }
  | { readonly kind: 'is null'; readonly operand: Expr; readonly negated: boolean; readonly span: Span }
  /** The operand is null where the row at hand is meant: `where is a WindInstrument`. */
  | {
      readonly kind: 'is a';
      readonly operand: Expr | null;
      readonly entity: Name;
      readonly negated: boolean;
      readonly span: Span;
    }
  | {
      readonly kind: 'in';
      readonly operand: Expr;
      /** Of a list that is given: the parameter alone. */
      readonly items: readonly Expr[];
      /** What is behind it is a parameter that holds a list. */
      readonly list: boolean;
      readonly negated: boolean;
      readonly span: Span;
    }
  | {
      readonly kind: 'between';
      readonly operand: Expr;
      readonly low: Expr;
      readonly high: Expr;
      readonly negated: boolean;
      readonly span: Span;
    }
  | { readonly kind: 'like'; readonly operand: Expr; readonly pattern: Expr; readonly negated: boolean; readonly span: Span };

export interface CaseBranch {
  readonly when: Expr;
  readonly then: Expr;
}

export interface OrderTerm {
  readonly expression: Expr;
  readonly descending: boolean;
}

/** A literal of a default, an `in` list or a generator. A number keeps its digits as written. */
export type Literal =
  | { readonly kind: 'number'; readonly text: string; readonly span: Span }
  | { readonly kind: 'text'; readonly value: string; readonly span: Span }
  | { readonly kind: 'boolean'; readonly value: boolean; readonly span: Span }
  | { readonly kind: 'null' | 'today' | 'now'; readonly span: Span };

/** SQL of the tree's dialect, for what the notation has no word for. */
export interface SqlSyntax {
  readonly kind: 'sql';
  readonly sql: string;
  readonly span: Span;
}

// Types and fields

export type PlainTypeName = 'integer' | 'bigint' | 'real' | 'boolean' | 'date' | 'time' | 'timestamp' | 'uuid' | 'json' | 'bytes';

export type TypeSyntax =
  | { readonly kind: PlainTypeName; readonly span: Span }
  | { readonly kind: 'decimal'; readonly precision: number; readonly scale: number; readonly span: Span }
  | { readonly kind: 'text'; readonly length: number | null; readonly span: Span }
  | { readonly kind: 'sql'; readonly declaration: string; readonly span: Span }
  /** A choice or, as a query's parameter, an entity. */
  | { readonly kind: 'named'; readonly name: Name; readonly span: Span };

export type Modifier =
  | { readonly kind: 'key' | 'optional' | 'unique' | 'on update now' | 'hidden' | 'internal' | 'fixed'; readonly span: Span }
  /** The column says NOT NULL, though it is the key; or the engine numbers it and uses no number twice. */
  | { readonly kind: 'not null' | 'never reused'; readonly span: Span }
  | { readonly kind: 'default'; readonly value: Literal | SqlSyntax; readonly span: Span }
  /** The declared type exactly, with nothing that keeps other values out. */
  | { readonly kind: 'stored as'; readonly declaration: Text; readonly span: Span }
  | { readonly kind: 'collate'; readonly name: Name; readonly span: Span }
  | { readonly kind: 'generated'; readonly sql: Text; readonly stored: boolean; readonly span: Span }
  | { readonly kind: 'in'; readonly values: readonly Literal[]; readonly span: Span }
  | { readonly kind: 'column'; readonly name: Name; readonly span: Span }
  | { readonly kind: 'title'; readonly text: Text; readonly span: Span }
  | { readonly kind: 'was'; readonly entity: Name | null; readonly name: Name; readonly span: Span };

export interface Tail {
  readonly message: Text | null;
  readonly note: Text | null;
  /** The name that the constraint has in the database. */
  readonly named: Name | null;
  /** Of a unique: an index of that name keeps it, rather than a constraint. */
  readonly asIndex: Name | null;
}

/** SQL as it stands in a database; each text is one line of it. */
export interface KeptLine {
  readonly kind: 'kept';
  readonly sql: readonly Text[];
  readonly dialect: DialectName | null;
  readonly span: Span;
}

export type EntityLine =
  | {
      readonly kind: 'field';
      readonly name: Name;
      readonly type: TypeSyntax;
      readonly modifiers: readonly Modifier[];
      readonly tail: Tail;
      readonly span: Span;
    }
  | { readonly kind: 'derived'; readonly name: Name; readonly expression: Expr; readonly note: Text | null; readonly span: Span }
  | { readonly kind: 'uses'; readonly mixins: readonly Name[]; readonly span: Span }
  | { readonly kind: 'key'; readonly fields: readonly Name[]; readonly tail: Tail; readonly span: Span }
  | { readonly kind: 'unique' | 'index'; readonly fields: readonly Name[]; readonly tail: Tail; readonly span: Span }
  | { readonly kind: 'check' | 'rule'; readonly name: Name; readonly expression: Expr; readonly tail: Tail; readonly span: Span }
  | { readonly kind: 'shown as'; readonly expression: Expr; readonly span: Span }
  | { readonly kind: 'order by'; readonly terms: readonly OrderTerm[]; readonly span: Span }
  | { readonly kind: 'always load'; readonly path: Path; readonly once: boolean; readonly span: Span }
  | { readonly kind: 'note'; readonly text: Text; readonly span: Span }
  | KeptLine
  | { readonly kind: 'kinds'; readonly storage: KindsStorage; readonly span: Span };

export type DialectName = 'sqlite' | 'postgres' | 'mariadb';

export type KindsStorage =
  | { readonly kind: 'single table' | 'joined tables'; readonly column: Name }
  | { readonly kind: 'json'; readonly json: Name; readonly column: Name }
  | { readonly kind: 'separate tables' };

// Declarations

interface Declared {
  /** The whole declaration, body included. */
  readonly span: Span;
  /** Its first line. */
  readonly head: Span;
}

/** `stored text(n) as 'VARCHAR(n)'`: how every field of a type is declared, with its numbers in place of the letters. */
export interface StoredTypeLine {
  readonly kind: 'stored type';
  /** The type's word; with a bracket where it takes numbers. */
  readonly type: string;
  readonly declaration: Text;
  readonly span: Span;
}

export interface TreeSyntax extends Declared {
  readonly kind: 'tree';
  readonly title: Text;
  readonly lines: readonly (
    | { readonly kind: 'note' | 'clock'; readonly text: Text; readonly span: Span }
    | { readonly kind: 'actor'; readonly entity: Name; readonly span: Span }
    | { readonly kind: 'dialect'; readonly dialect: DialectName; readonly span: Span }
    | StoredTypeLine
    | { readonly kind: 'tables as stated' | 'references without columns'; readonly span: Span }
    | KeptLine
  )[];
}

export interface ChoiceSyntax extends Declared {
  readonly kind: 'choice';
  readonly name: Name;
  readonly values: readonly { readonly value: Text; readonly title: Text | null }[];
}

export interface MixinSyntax extends Declared {
  readonly kind: 'mixin';
  readonly name: Name;
  readonly lines: readonly EntityLine[];
}

export interface EntitySyntax extends Declared {
  readonly kind: 'entity';
  readonly name: Name;
  readonly table: PhysicalName | null;
  readonly base: Name | null;
  readonly mark: Text | null;
  readonly abstract: boolean;
  readonly given: boolean;
  readonly was: PhysicalName | null;
  readonly lines: readonly EntityLine[];
}

export type Knows = 'one' | 'at most one' | 'many';

export interface Sentence {
  readonly kind: 'sentence';
  /** Null for `each`: every one of the other sentence's targets. */
  readonly subjects: readonly Name[] | null;
  readonly knows: Knows;
  readonly targets: readonly Name[];
  readonly role: Name;
  readonly bothWays: boolean;
  readonly orderBy: readonly OrderTerm[];
  readonly note: Text | null;
  readonly span: Span;
}

export type PivotColumn =
  | { readonly kind: 'column'; readonly name: Name }
  | { readonly kind: 'typed'; readonly type: Name; readonly id: Name }
  | { readonly kind: 'composite'; readonly names: readonly Name[] };

export type Store =
  | { readonly kind: 'table'; readonly table: PhysicalName; readonly columns: readonly [PivotColumn, PivotColumn] | null }
  | { readonly kind: 'one of'; readonly columns: readonly { readonly entity: Name; readonly column: Name }[] }
  | { readonly kind: 'column'; readonly entity: Name; readonly column: Name; readonly role: Name | null }
  | {
      readonly kind: 'typed';
      readonly entity: Name;
      readonly type: Name;
      /** The entity again, before the column of the key. */
      readonly idEntity: Name;
      readonly id: Name;
      readonly role: Name | null;
    }
  | { readonly kind: 'composite'; readonly entity: Name; readonly columns: readonly Name[]; readonly role: Name | null }
  | { readonly kind: 'entity'; readonly entity: Name; readonly roles: readonly [Name, Name] | null };

export type DeleteRule = 'cascade' | 'restrict' | 'set null' | 'set default' | 'no action';

export type RelationLine =
  | Sentence
  | {
      readonly kind: 'stored';
      readonly store: Store;
      readonly repeats: boolean;
      /** A pivot whose table has no key at all. */
      readonly withoutKey: boolean;
      readonly withoutTriggers: boolean;
      readonly given: boolean;
      readonly was: PhysicalName | null;
      readonly lines: readonly EntityLine[];
      readonly marks: readonly { readonly entity: Name; readonly mark: Text }[];
      readonly span: Span;
    }
  | { readonly kind: 'on delete' | 'on update'; readonly rule: DeleteRule; readonly span: Span }
  /** The foreign key is looked at when the transaction ends. */
  | { readonly kind: 'deferred'; readonly span: Span }
  | { readonly kind: 'named'; readonly name: Name; readonly span: Span }
  | KeptLine
  | { readonly kind: 'note'; readonly text: Text; readonly span: Span };

export interface RelationSyntax extends Declared {
  readonly kind: 'relation';
  readonly name: Name;
  readonly was: Name | null;
  readonly note: Text | null;
  readonly lines: readonly RelationLine[];
}

export interface PathSyntax extends Declared {
  readonly kind: 'path';
  readonly entity: Name;
  readonly name: Name;
  readonly path: Path;
  readonly orderBy: readonly OrderTerm[];
  readonly first: boolean;
  readonly note: Text | null;
}

export type ScopeLine =
  | { readonly kind: 'where'; readonly entity: Name; readonly condition: Expr; readonly span: Span }
  | { readonly kind: 'note'; readonly text: Text; readonly span: Span };

export interface ScopeSyntax extends Declared {
  readonly kind: 'scope';
  readonly name: Name;
  readonly lines: readonly ScopeLine[];
}

export interface WallSyntax extends Declared {
  readonly kind: 'wall';
  readonly name: Name;
  readonly on: 'read' | 'write' | null;
  readonly lines: readonly (
    | ScopeLine
    | { readonly kind: 'unless'; readonly condition: Expr; readonly span: Span }
    | { readonly kind: 'pin'; readonly entity: Name; readonly member: Name; readonly value: Expr; readonly span: Span }
  )[];
}

export interface ParameterSyntax {
  readonly name: Name;
  readonly type: TypeSyntax;
  /** It is a list of such values. */
  readonly many: boolean;
  readonly optional: boolean;
}

export type LoadWay = 'batch' | 'join' | 'json' | 'row';

export interface LoadSyntax {
  readonly kind: 'load';
  readonly path: Path;
  readonly fields: readonly Path[] | null;
  readonly where: Expr | null;
  readonly orderBy: readonly OrderTerm[];
  readonly limit: Expr | null;
  /** One row of each owner, instead of a list: the first, or the only one. */
  readonly only: 'first' | 'one' | null;
  readonly by: LoadWay | null;
  readonly loads: readonly LoadSyntax[];
  readonly span: Span;
}

export type QueryLine =
  | { readonly kind: 'from'; readonly entity: Name; readonly span: Span }
  | { readonly kind: 'where' | 'having'; readonly condition: Expr; readonly span: Span }
  | LoadSyntax
  | {
      readonly kind: 'show';
      /** Rows that are the same in all that is shown stand there once. */
      readonly distinct: boolean;
      readonly items: readonly {
        readonly expression: Expr;
        readonly as: Name | null;
        /** The expression as it stands in the text: the name of what is given none. */
        readonly written: string;
      }[];
      readonly span: Span;
    }
  | { readonly kind: 'group by'; readonly items: readonly Expr[]; readonly span: Span }
  | { readonly kind: 'order by'; readonly terms: readonly OrderTerm[]; readonly span: Span }
  | { readonly kind: 'limit' | 'offset'; readonly amount: Expr; readonly span: Span }
  | { readonly kind: 'lift'; readonly wall: Name; readonly span: Span }
  | { readonly kind: 'reads'; readonly paths: readonly Path[]; readonly span: Span }
  | { readonly kind: 'first' | 'one' | 'exists' | 'count'; readonly span: Span }
  | { readonly kind: 'note'; readonly text: Text; readonly span: Span };

export interface QuerySyntax extends Declared {
  readonly kind: 'query';
  readonly name: Name;
  readonly parameters: readonly ParameterSyntax[];
  readonly lines: readonly QueryLine[];
}

export interface Assignment {
  readonly name: Name;
  readonly value: Expr;
}

export type GeneratorSyntax =
  | { readonly kind: 'any'; readonly target: Path; readonly nullShare: number }
  | { readonly kind: 'between'; readonly low: Expr; readonly high: Expr; readonly nullShare: number }
  | { readonly kind: 'each'; readonly least: number; readonly most: number }
  | {
      readonly kind: 'values';
      readonly values: readonly { readonly value: Literal; readonly share: number | null }[];
      readonly nullShare: number;
    };

export type SampleLine =
  | { readonly kind: 'row'; readonly name: Name; readonly values: readonly Assignment[]; readonly span: Span }
  | { readonly kind: 'generator'; readonly member: Name; readonly generator: GeneratorSyntax; readonly span: Span };

export interface SampleSyntax extends Declared {
  readonly kind: 'sample';
  readonly entity: Name;
  readonly count: number | null;
  readonly lines: readonly SampleLine[];
}

export type ActorSyntax =
  | { readonly kind: 'nobody' | 'system'; readonly span: Span }
  | { readonly kind: 'row'; readonly target: Path; readonly span: Span };

/** A value that a command writes: of a field or a role, or rows that are children of the row that is written. */
export type CommandValue =
  | { readonly kind: 'value'; readonly name: Name; readonly value: Expr; readonly span: Span }
  | {
      readonly kind: 'children';
      readonly name: Name;
      /** The values of each. */
      readonly rows: readonly (readonly Assignment[])[];
      readonly span: Span;
    };

export type CommandSyntax =
  | {
      readonly kind: 'create' | 'find or create' | 'create or update' | 'update';
      readonly target: Path;
      readonly values: readonly CommandValue[];
      readonly span: Span;
    }
  | {
      readonly kind: 'link' | 'unlink';
      readonly target: Path;
      readonly others: readonly Path[];
      readonly values: readonly CommandValue[];
      readonly span: Span;
    }
  | { readonly kind: 'delete'; readonly target: Path; readonly span: Span };

/** A line where commands stand: one, with a name for its row; or on whose behalf those after it are. */
export type CommandLine =
  | { readonly kind: 'command'; readonly name: Name | null; readonly command: CommandSyntax; readonly span: Span }
  | { readonly kind: 'as'; readonly actor: ActorSyntax; readonly span: Span };

export type ExpectLine =
  | {
      readonly kind: 'rows' | 'statements';
      readonly bound: 'exactly' | 'at most' | 'at least';
      readonly count: number;
      readonly span: Span;
    }
  | { readonly kind: 'every row' | 'no row'; readonly condition: Expr; readonly span: Span }
  | { readonly kind: 'fails' | 'done' | 'refused'; readonly span: Span }
  | { readonly kind: 'note'; readonly text: Text; readonly span: Span };

export interface ExpectSyntax extends Declared {
  readonly kind: 'expect';
  readonly subject:
    | { readonly kind: 'query'; readonly name: Name; readonly args: readonly Expr[] }
    | { readonly kind: 'command'; readonly command: CommandSyntax };
  readonly actor: ActorSyntax | null;
  readonly lines: readonly ExpectLine[];
}

/** A finding that is meant so, and why: it is told no more. Without `of` it is meant wherever it is found. */
export interface MeantSyntax extends Declared {
  readonly kind: 'meant';
  /** The finding's code, with `_` for its hyphens. */
  readonly code: Name;
  /** What it is found at: an entity, a line of one, a relation, a scope or a query. */
  readonly of: { readonly owner: Name; readonly member: Name | null } | null;
  readonly why: Text;
}

export type Declaration =
  | TreeSyntax
  | ChoiceSyntax
  | MixinSyntax
  | EntitySyntax
  | RelationSyntax
  | PathSyntax
  | ScopeSyntax
  | WallSyntax
  | QuerySyntax
  | SampleSyntax
  | ExpectSyntax
  | MeantSyntax;

/** How a token is coloured; what it means is decided by the parser, not by its letters. */
export type TokenClass =
  | 'keyword'
  | 'sentence'
  | 'type'
  | 'entity'
  | 'name'
  | 'role'
  | 'text'
  | 'number'
  | 'operator'
  | 'parameter'
  | 'comment'
  | 'plain';

export interface ColouredToken {
  readonly span: Span;
  readonly class: TokenClass;
}
