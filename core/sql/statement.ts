/** A table by its name, in a schema where the engine has them. */
export interface TableName {
  readonly schema: string | null;
  readonly name: string;
}

/** One text for a table, whatever the case of its name: engines take two names that differ in case for one. */
export function placeOf({ schema, name }: TableName): string {
  return `${schema ?? ''}.${name}`.toLowerCase();
}

/** The operators that SQL writes between two operands. */
export type SqlOperator =
  | 'or'
  | 'and'
  | '='
  | '<>'
  | '<'
  | '<='
  | '>'
  | '>='
  | '||'
  | '+'
  | '-'
  | '*'
  | '/'
  | '%'
  /** Division of whole numbers, where `/` is none. */
  | 'div'
  /** What stands under a name in a column of JSON, as JSON. */
  | '->';

/** An expression of SQL as data. Values never stand in it as text, but for literals that the notation itself spells. */
export type SqlExpression =
  | { readonly kind: 'column'; readonly source: string | null; readonly column: string }
  /** A value that is bound under this name, and cast to a type where the engine would guess at it. */
  | { readonly kind: 'parameter'; readonly name: string; readonly type: string | null }
  | { readonly kind: 'number'; readonly text: string }
  | { readonly kind: 'string'; readonly value: string }
  | { readonly kind: 'boolean'; readonly value: boolean }
  | { readonly kind: 'bytes'; readonly hex: string }
  /** A text with its type before it, as `date '2031-04-12'`. */
  | { readonly kind: 'typed literal'; readonly type: string; readonly value: string }
  /** Behind which a date is moved: `interval 3 month`. */
  | { readonly kind: 'interval'; readonly amount: string; readonly unit: string }
  | { readonly kind: 'null' }
  /** A value that is given with the statement, by its place among them, from 1. */
  | { readonly kind: 'placeholder'; readonly number: number }
  /** The parts of a composite key, compared as one. */
  | { readonly kind: 'tuple'; readonly items: readonly SqlExpression[] }
  /** One part, counted from 0, of a composite key that is bound under a name. */
  | { readonly kind: 'key part'; readonly parameter: string; readonly part: number; readonly type: string }
  | { readonly kind: 'binary'; readonly operator: SqlOperator; readonly left: SqlExpression; readonly right: SqlExpression }
  | { readonly kind: 'not' | 'negate'; readonly operand: SqlExpression }
  | { readonly kind: 'is null'; readonly operand: SqlExpression; readonly negated: boolean }
  | { readonly kind: 'in'; readonly operand: SqlExpression; readonly items: readonly SqlExpression[]; readonly negated: boolean }
  /** Is the operand among the keys that are bound, as one list, under this name? */
  | { readonly kind: 'in keys'; readonly operand: SqlExpression; readonly parameter: string; readonly types: readonly string[] }
  | {
      readonly kind: 'between';
      readonly operand: SqlExpression;
      readonly low: SqlExpression;
      readonly high: SqlExpression;
      readonly negated: boolean;
    }
  | { readonly kind: 'like'; readonly operand: SqlExpression; readonly pattern: SqlExpression; readonly negated: boolean }
  | { readonly kind: 'function'; readonly name: string; readonly args: readonly SqlExpression[] }
  /** A condition that is SQL of the dialect already. */
  | { readonly kind: 'written'; readonly sql: string }
  | { readonly kind: 'count rows' }
  /** The rows of a select as one list of JSON: of each row its values as a list, or as several where they are very many. */
  | { readonly kind: 'json rows'; readonly lists: readonly (readonly SqlExpression[])[]; readonly orderBy: readonly OrderTerm[] }
  /** The place, from 1, of a row among those that have the same values (SQL:2003, 4.14.9). */
  | { readonly kind: 'row number'; readonly partition: readonly SqlExpression[]; readonly orderBy: readonly OrderTerm[] }
  | { readonly kind: 'count distinct'; readonly operand: SqlExpression }
  /** True, and neither false nor unknown; or the other way round. Itself never unknown. */
  | { readonly kind: 'is true'; readonly operand: SqlExpression; readonly negated: boolean }
  | { readonly kind: 'cast'; readonly operand: SqlExpression; readonly type: string }
  | { readonly kind: 'collate'; readonly operand: SqlExpression; readonly collation: string }
  /** A text without this character at its end, however often it stands there. */
  | { readonly kind: 'trimmed'; readonly operand: SqlExpression; readonly of: string }
  /** A text, or bytes, in another character set. */
  | { readonly kind: 'convert'; readonly operand: SqlExpression; readonly charset: string }
  | {
      readonly kind: 'case';
      readonly branches: readonly { readonly when: SqlExpression; readonly then: SqlExpression }[];
      readonly otherwise: SqlExpression | null;
    }
  | { readonly kind: 'exists'; readonly select: Select; readonly negated: boolean }
  /** Is the operand, a key, among those that a select gives? */
  | { readonly kind: 'in select'; readonly operand: SqlExpression; readonly select: Select }
  /** Is the operand among what is reached? */
  | { readonly kind: 'in reach'; readonly operand: SqlExpression; readonly reach: Reach }
  | { readonly kind: 'scalar'; readonly select: Select };

export interface Source {
  readonly from:
    | { readonly kind: 'table'; readonly table: TableName }
    /** A select that stands as a table. */
    | { readonly kind: 'select'; readonly select: Query }
    /** The keys that are bound as one list, each a row with a `value`. */
    | { readonly kind: 'keys'; readonly parameter: string; readonly type: string };
  readonly alias: string;
}

export interface Join {
  /** *each*: a select that is asked once for each row before it, of which it may speak; the condition stands in it. */
  readonly kind: 'inner' | 'left' | 'each';
  readonly source: Source;
  readonly on: SqlExpression;
}

/** Rows stand in the order of this value; nulls come first, or last where it descends. */
export interface OrderTerm {
  readonly expression: SqlExpression;
  readonly descending: boolean;
  /** Whether there can be nulls: where there are none, an index gives the order as it is. */
  readonly nulls: boolean;
}

export interface Select {
  readonly kind: 'select';
  /** Rows that are the same in all columns stand there once. */
  readonly distinct: boolean;
  readonly columns: readonly { readonly expression: SqlExpression; readonly as: string | null }[];
  readonly from: Source;
  readonly joins: readonly Join[];
  readonly where: SqlExpression | null;
  readonly groupBy: readonly SqlExpression[];
  /** The condition on groups. */
  readonly having: SqlExpression | null;
  readonly orderBy: readonly OrderTerm[];
  /** How many rows at most, and how many are left out before them. */
  readonly limit: SqlExpression | null;
  readonly offset: SqlExpression | null;
  /** What no other session may change of the rows that it finds; null where they are not held. */
  readonly lock: RowLock | null;
}

/**
 * How the rows of a select are held until the transaction ends. *key*: they stay, and so does their key. *row*: they stay as they
 * are. *latest*: they are those that any session committed, however old the transaction is.
 */
export type RowLock = 'key' | 'row' | 'latest';

/** Values that are reached step by step from those of a first select (SQL:1999, 7.13: a recursive with). */
export interface Reach {
  /** What the next step calls the values of those before it. */
  readonly name: string;
  readonly column: string;
  readonly first: Select;
  readonly next: Select;
}

/** A select that asks nothing yet of what it reads from. */
export function selectOf(from: Source, parts: Partial<Omit<Select, 'kind' | 'from'>> = {}): Select {
  return {
    kind: 'select',
    distinct: false,
    columns: [],
    from,
    joins: [],
    where: null,
    groupBy: [],
    having: null,
    orderBy: [],
    limit: null,
    offset: null,
    lock: null,
    ...parts,
  };
}

/** A table as a source, under its own name where no other is given. */
export function tableSource(table: TableName, alias = table.name): Source {
  return { from: { kind: 'table', table }, alias };
}

/** A name that no column of a select has; engines take two names that differ in case for one. */
export function freeName({ columns }: Select, wish: string): string {
  const taken = new Set(
    columns.map(({ expression, as }) => (as ?? (expression.kind === 'column' ? expression.column : '')).toLowerCase()),
  );
  let name = wish;
  for (let number = 2; taken.has(name.toLowerCase()); number++) name = `${wish}_${number}`;
  return name;
}

/** A select as a source. */
export function derived(select: Query, alias: string): Source {
  return { from: { kind: 'select', select }, alias };
}

/** Several selects with the same columns, one after the other. */
export interface UnionAll {
  readonly kind: 'union all';
  readonly selects: readonly Select[];
}

/** Rows that have a name within one statement (SQL:1999, 7.12: a with clause). */
export interface CommonTable {
  readonly name: string;
  readonly columns: readonly string[];
  /** Each row stands there once, where there are several. */
  readonly first: readonly Select[];
  /** What is reached from the rows that are there already, over and over until there is nothing more. */
  readonly next: readonly Select[];
}

/** A query that speaks of rows by names of its own. */
export interface WithQuery {
  readonly kind: 'with';
  readonly tables: readonly CommonTable[];
  readonly query: Select | UnionAll;
}

export type Query = Select | UnionAll | WithQuery;

/** Joins conditions with `and`; null where there are none. */
export function allOf(conditions: readonly (SqlExpression | null)[]): SqlExpression | null {
  let all: SqlExpression | null = null;
  for (const condition of conditions) {
    if (condition === null) continue;
    all = all === null ? condition : { kind: 'binary', operator: 'and', left: all, right: condition };
  }
  return all;
}

/** The conditions that are joined with `and`, each for itself. */
export function conjunctsOf(condition: SqlExpression): readonly SqlExpression[] {
  if (condition.kind !== 'binary' || condition.operator !== 'and') return [condition];
  return [...conjunctsOf(condition.left), ...conjunctsOf(condition.right)];
}

/** A condition as it lets rows through: unknown lets no more through than false, and need not be told apart from it. */
export function lettingThrough(condition: SqlExpression): SqlExpression {
  if (condition.kind === 'is true' && !condition.negated) return lettingThrough(condition.operand);
  if (condition.kind !== 'binary' || (condition.operator !== 'and' && condition.operator !== 'or')) return condition;
  return { ...condition, left: lettingThrough(condition.left), right: lettingThrough(condition.right) };
}

/** Joins conditions with `or`; null where there are none. */
export function anyOf(conditions: readonly SqlExpression[]): SqlExpression | null {
  return conditions.reduce<SqlExpression | null>(
    (left, right) => (left === null ? right : { kind: 'binary', operator: 'or', left, right }),
    null,
  );
}

/** Items as one value: the only one itself, or a tuple of several. */
export function tupleOf(items: readonly SqlExpression[]): SqlExpression {
  const [first, ...others] = items;
  if (first === undefined) throw new Error('a key needs a column');
  return others.length === 0 ? first : { kind: 'tuple', items };
}

/** The items of a tuple; of any other value the value itself. */
export function itemsOf(value: SqlExpression): readonly SqlExpression[] {
  return value.kind === 'tuple' ? value.items : [value];
}

/** The first item: of a key as good as the whole to tell whether there is a row. */
export function firstItemOf(value: SqlExpression): SqlExpression {
  return itemsOf(value)[0] ?? { kind: 'null' };
}

/** Columns of one source as one value: the column itself, or a tuple of several. */
export function columnsOf(source: string | null, names: readonly string[]): SqlExpression {
  return tupleOf(names.map((name) => column(source, name)));
}

/** Are two expressions the same column of the same source? */
export function isSameColumn(one: SqlExpression, other: SqlExpression): boolean {
  return one.kind === 'column' && other.kind === 'column' && one.source === other.source && one.column === other.column;
}

/** `left = right` of two values, or of two tuples part by part. */
export function equal(left: SqlExpression, right: SqlExpression): SqlExpression {
  if (left.kind !== 'tuple' || right.kind !== 'tuple') return { kind: 'binary', operator: '=', left, right };
  const parts = left.items.flatMap((item, index) => {
    const other = right.items[index];
    return other === undefined ? [] : [equal(item, other)];
  });
  return allOf(parts) ?? { kind: 'null' };
}

/** A column of a source. */
export function column(source: string | null, name: string): SqlExpression {
  return { kind: 'column', source, column: name };
}

/** A call of one of SQL's functions. */
export function call(name: string, ...args: readonly SqlExpression[]): SqlExpression {
  return { kind: 'function', name, args };
}

/** A text that stands in the SQL itself. */
export function string(value: string): SqlExpression {
  return { kind: 'string', value };
}

/** A number that stands in the SQL itself, with its digits as written. */
export function number(text: string | number): SqlExpression {
  return { kind: 'number', text: String(text) };
}
