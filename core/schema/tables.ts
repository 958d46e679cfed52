import { type ColumnGroup, type Condition, type Field, generatedName, type KeptSql, type PhysicalStyle } from '../model/index.js';
import type { DialectName } from '../notation/index.js';
import {
  allOf,
  anyOf,
  column,
  equal,
  isRowNumber,
  type SqlExpression,
  type TableName,
  type Trigger,
  withoutNumbering,
} from '../sql/index.js';
import type { EngineValues, ValueType } from '../values/index.js';
import { rowLeaves, toSql } from './conditions.js';
import { foreignKeyColumns, type KeptParts, keptParts, NOTHING_KEPT } from './kept.js';
import type { Check, Column, ConstraintSource, ForeignKey, Index, Table, Unique } from './schema.js';

/** How an engine writes what a schema keeps as SQL. */
export interface SchemaTarget {
  readonly name: DialectName;
  readonly values: EngineValues;
  /** Whether tables and columns can bear a comment. */
  readonly comments: boolean;
  /** What stands behind the bracket of a table that is made here. */
  readonly tableOptions: readonly string[];
  quote(name: string): string;
  /** Whether a key can be looked at when the transaction ends only. */
  readonly defers: boolean;
  /** Whether triggers fire on the rows that a foreign key's rule deletes or changes. */
  readonly cascadesFireTriggers: boolean;
  /** Whether a trigger fires only while it is not at work already, unless the session says otherwise. */
  readonly triggersRestOnSession: boolean;
  print(expression: SqlExpression): string;
}

/** Rows of certain kinds, by what they are marked with. */
interface Marked {
  readonly column: string;
  readonly values: readonly string[];
}

/** What a key's type says of the engine's numbering it; a column that points at the key has no such thing. */

/** Gathers one table. Names of constraints are made here, unique in the database. */
export class TableBuilder {
  readonly columns: Column[] = [];
  readonly foreignKeys: ForeignKey[] = [];
  readonly uniques: Unique[] = [];
  readonly indexes: Index[] = [];
  readonly checks: Check[] = [];
  private readonly triggers: { readonly trigger: Trigger; readonly relation: string | null }[] = [];
  private kept: KeptParts = NOTHING_KEPT;
  primaryKey: Table['primaryKey'] = { columns: [], name: null, autoincrement: false };
  note: string | null = null;

  constructor(
    readonly name: TableName,
    readonly label: string,
    private readonly target: SchemaTarget,
    private readonly style: PhysicalStyle,
    private readonly names: Set<string>,
    private readonly sources: ConstraintSource[],
  ) {}

  addField(field: Field): void {
    const { values } = this.target;
    const { physical } = field;
    const integerKey = field.key && (field.type.kind === 'integer' || field.type.kind === 'bigint');
    const declared = this.declared(field);
    this.columns.push({
      name: field.column.value,
      type: declared ?? (integerKey ? values.keyType(field.type) : this.columnType(field.type, field.column.value)),
      notNull: integerKey ? physical.notNull : field.required,
      default: this.defaultOf(field),
      collation: this.own
        ? (physical.collation ?? this.collationOf(field.type, declared))
        : this.collationOf(field.type, declared),
      generated: this.own ? physical.generated : null,
      comment: this.target.comments ? field.note : null,
    });
    const unchecked =
      declared !== null || (physical.generated !== null && this.own) || (this.style.asStated && field.type.kind !== 'choice');
    if (!unchecked) this.addTypeCheck(field.column.value, field);
    if (field.key && physical.neverReused) this.primaryKey = { ...this.primaryKey, autoincrement: true };
    if (field.allowed !== null && field.allowed.length > 0) {
      const allowed = field.allowed.map((value) => values.defaultOf(field.type, { kind: 'value', value }));
      this.addCheck(
        `${field.column.value}_in`,
        `${this.target.quote(field.column.value)} in (${allowed.join(', ')})`,
        `${this.label}.${field.name}: one of ${allowed.join(', ')}`,
        null,
      );
    }
    if (field.unique !== null && !field.key)
      this.addUnique([field.column.value], `${this.label}.${field.name} is unique`, field.unique.message);
  }

  /** The declared type that the text states for a field, or for all fields of its type; null where it states none. */
  private declared({ type, physical }: Field): string | null {
    if (!this.own) return null;
    if (physical.declaration !== null) return physical.declaration;
    const { types } = this.style;
    switch (type.kind) {
      case 'text':
        return type.length === null
          ? (types.get('text') ?? null)
          : (types.get('text(n)')?.replace(/\bn\b/, String(type.length)) ?? null);
      case 'decimal':
        return types.get('decimal(p, s)')?.replace(/\bp\b/, String(type.precision)).replace(/\bs\b/, String(type.scale)) ?? null;
      default:
        return types.get(type.kind) ?? null;
    }
  }

  /** The declared type of a key that the engine numbers. */
  keyType(type: ValueType): string {
    return this.style.types.get(type.kind) ?? this.target.values.keyType(type);
  }

  /** Whether the text speaks of this dialect's tables: how it declares columns holds for no other. */
  private get own(): boolean {
    return this.style.dialect === this.target.name;
  }

  private columnType(type: ValueType, column: string): string {
    const { values } = this.target;
    // A type of another engine is kept as its text.
    const held: ValueType = type.kind === 'sql' && !this.own ? { kind: 'text', length: null } : type;
    return this.primaryKey.columns.includes(column) ? values.keyedType(held) : values.columnType(held);
  }

  private collationOf(type: ValueType, declared: string | null): string | null {
    const isText = type.kind === 'text' || type.kind === 'choice';
    return isText && declared === null && !this.style.asStated ? this.target.values.collation : null;
  }

  /** A default in SQL is of one dialect; in another the column has none. */
  private defaultOf({ type, default: value }: Field): string | null {
    if (value === null || (value.kind === 'sql' && !this.own)) return null;
    return this.target.values.defaultOf(type, value);
  }

  /** A column that says what kind a row is, or whose key stands beside it. */
  addMark(name: string, type: ValueType, values: readonly string[], required: boolean, what: string): void {
    const { values: engine } = this.target;
    const collation = this.collationOf(type, null);
    const declared = this.columnType(type, name);
    this.columns.push({ name, type: declared, notNull: required, default: null, collation, generated: null, comment: null });
    const written = values.map((value) => engine.defaultOf(type, { kind: 'value', value }));
    this.addCheck(`${name}_mark`, `${this.target.quote(name)} in (${written.join(', ')})`, what, null);
  }

  /** A column that holds keys of several tables. */
  addIdColumn(name: string, type: ValueType, required: boolean): void {
    const collation = this.collationOf(type, null);
    const declared = this.target.values.keyedType(type);
    this.columns.push({ name, type: declared, notNull: required, default: null, collation, generated: null, comment: null });
  }

  /** A number of its own, where nothing else tells rows apart. */
  addId(): void {
    const type = this.keyType({ kind: 'integer' });
    this.columns.push({ name: 'id', type, notNull: false, default: null, collation: null, generated: null, comment: null });
  }

  hasColumns(names: readonly string[]): boolean {
    return names.every((name) => this.columns.some((column) => column.name === name));
  }

  /** The rule that a column lost, since rows of other kinds have nothing in it. */
  addRequiredOf(name: string, among: Marked, label: string): void {
    const condition = `${this.noneOf(among)} or ${this.target.quote(name)} is not null`;
    this.addCheck(`${name}_given`, condition, `${label} is required`, null);
  }

  /** The condition that a row is of none of these kinds. */
  noneOf({ column: mark, values }: Marked): string {
    const type: ValueType = { kind: 'text', length: null };
    const written = values.map((value) => this.target.values.defaultOf(type, { kind: 'value', value }));
    const quoted = this.target.quote(mark);
    return written.length === 1 ? `${quoted} <> ${written[0]}` : `${quoted} not in (${written.join(', ')})`;
  }

  /** How many of these columns are filled, compared. */
  filled(names: readonly string[], comparison: string): string {
    const counted = names.map((name) => `case when ${this.target.quote(name)} is null then 0 else 1 end`);
    return `${counted.join(' + ')} ${comparison}`;
  }

  /** @param relation the name of what it keeps; null where it carries on what others do */
  addTrigger(trigger: Trigger, relation: string | null): void {
    const [first] = trigger.actions;
    const what = first?.kind === 'refuse' ? first.message : `${this.label}: what its rules say`;
    this.triggers.push({ trigger: { ...trigger, name: this.claim(trigger.name, what, null) }, relation });
  }

  get firesOnDelete(): boolean {
    return this.triggers.some(({ trigger }) => trigger.event === 'delete');
  }

  /** The foreign keys by which rows of this table go with another's. */
  cascadesTaken(): readonly ForeignKey[] {
    return this.foreignKeys.filter(({ onDelete, sql }) => onDelete === 'cascade' && sql === null);
  }

  /** The foreign keys by which a key of this table changes with another's, where triggers look at such a change. */
  keyChangesTaken(): readonly ForeignKey[] {
    const watched = this.triggers.flatMap(({ trigger }) => (trigger.event === 'update' ? trigger.columns : []));
    const key = this.primaryKey.columns.filter((name) => watched.includes(name));
    return this.foreignKeys.filter(
      ({ onUpdate, columns, sql }) => onUpdate === 'cascade' && sql === null && columns.some((name) => key.includes(name)),
    );
  }

  /** A foreign key whose rule something else carries out, or nothing does. */
  restrict(key: ForeignKey, event: 'delete' | 'update'): void {
    const at = this.foreignKeys.indexOf(key);
    if (at >= 0) this.foreignKeys[at] = { ...key, [event === 'delete' ? 'onDelete' : 'onUpdate']: 'no action' };
  }

  /** A key that a row had is never given to another: what still points at it would take that one for its own. */
  neverReuseKeys(): void {
    const [only, ...more] = this.primaryKey.columns;
    const numbered = this.columns.some(({ name, type }) => name === only && isRowNumber(type));
    if (numbered && more.length === 0) this.primaryKey = { ...this.primaryKey, autoincrement: true };
  }

  /** A key that is another row's key too comes from there: the engine must not number it. */
  takeKeyFromElsewhere(name: string): void {
    const at = this.columns.findIndex((column) => column.name === name);
    const column = this.columns[at];
    if (column !== undefined) this.columns[at] = { ...column, type: withoutNumbering(column.type) };
  }

  /** A column that holds another table's key. What it may hold is kept by its foreign key. */
  addKeyColumn(name: string, key: Field, required: boolean): void {
    const stated = this.declared(key);
    const declared = stated === null ? null : withoutNumbering(stated);
    const held: ValueType = key.type.kind === 'sql' && !this.own ? { kind: 'text', length: null } : key.type;
    const type = declared ?? this.target.values.keyedType(held);
    const collation = this.collationOf(key.type, declared);
    this.columns.push({ name, type, notNull: required, default: null, collation, generated: null, comment: null });
  }

  addForeignKey(
    columns: readonly string[],
    table: TableName,
    key: readonly string[],
    onDelete: ForeignKey['onDelete'],
    onUpdate: ForeignKey['onUpdate'],
    what: string,
    { named, deferred }: { readonly named: string | null; readonly deferred: boolean },
  ): void {
    const name = this.nameFor(named, generatedName(this.name.name, ...columns, 'fkey'), what, null);
    const references = this.style.unnamedReferences ? [] : key;
    const { name: there, schema } = table;
    this.foreignKeys.push({ name, columns, table: there, schema, references, onDelete, onUpdate, deferred, sql: null });
  }

  addUnique(columns: readonly string[], what: string, message: string | null, named: string | null = null): void {
    if (this.uniques.some((unique) => unique.columns.join() === columns.join())) return;
    this.uniques.push({ name: this.nameFor(named, generatedName(this.name.name, ...columns, 'unique'), what, message), columns });
  }

  /** An index that no other makes needless, or one that is stated by its name. */
  addIndex(columns: readonly string[], named: string | null = null, unique = false): void {
    const covered = [
      this.primaryKey.columns,
      ...this.uniques.map((unique) => unique.columns),
      ...this.indexes.map((index) => index.columns),
    ];
    if (named === null && covered.some((other) => columns.every((column, position) => other[position] === column))) return;
    this.indexes.push({
      // A stated name stands as it is: an engine may let several tables use it.
      name: named ?? this.claim(generatedName(this.name.name, ...columns, 'index'), `index on ${columns.join(', ')}`, null),
      columns,
      unique,
      sql: null,
    });
  }

  addGroups(uniques: readonly ColumnGroup[], indexes: readonly ColumnGroup[]): void {
    for (const unique of uniques) {
      if (unique.asIndex !== null) this.addIndex(unique.columns, unique.asIndex, true);
      else this.addUnique(unique.columns, `${this.label}: unique (${unique.members.join(', ')})`, unique.message, unique.named);
    }
    for (const index of indexes) this.addIndex(index.columns, index.named);
  }

  /** @param among the rows that the conditions hold for, where others stand beside them */
  addConditions(checks: readonly Condition[], fields: readonly Field[], among: Marked | null = null): void {
    for (const check of checks) {
      const printed = this.target.print(toSql(check.expression, rowLeaves(this.target.values, fields)));
      const expression = among === null ? printed : `${this.noneOf(among)} or (${printed})`;
      this.addCheck(check.name, expression, `${this.label}: check ${check.name}`, check.message, check.named);
    }
  }

  addCheck(name: string, expression: string, what: string, message: string | null, named: string | null = null): void {
    this.checks.push({ name: this.nameFor(named, generatedName(this.name.name, name), what, message), expression });
  }

  /** Takes in what the text keeps as SQL; each piece is told by the words that it begins with. */
  keep(kept: readonly KeptSql[]): void {
    this.kept = keptParts(kept.filter(({ dialect }) => dialect === this.target.name));
  }

  /** The condition that one key comes before the other, both of as many columns. */
  inOrder(first: readonly string[], second: readonly string[], types: readonly ValueType[]): string {
    const { values, print } = this.target;
    const parts = first.map((name, index) => ({
      one: column(null, name),
      other: column(null, second[index] ?? ''),
      type: types[index] ?? { kind: 'text' as const, length: null },
    }));
    const plain = parts.every(({ one, type }) => values.ordered(type, one) === one);
    if (plain && parts.length > 1)
      return `(${parts.map(({ one }) => print(one)).join(', ')}) < (${parts.map(({ other }) => print(other)).join(', ')})`;
    // What orders by a function of this program cannot stand in a table: its parts are compared one after the other.
    const [last, ...before] = parts.toReversed();
    if (last === undefined) throw new Error('a key has a part');
    const less = ({ one, other, type }: (typeof parts)[number]) => values.compared('<', one, other, type, 'table');
    const condition = before.reduce<SqlExpression>(
      (behind, part) => anyOf([less(part), allOf([equal(part.one, part.other), behind]) ?? behind]) ?? behind,
      less(last),
    );
    return print(condition);
  }

  /** The condition that all of these columns are null, or none. */
  allOrNone(columns: readonly string[]): string {
    const quoted = columns.map((column) => this.target.quote(column));
    const every = (word: string) => quoted.map((column) => `${column} is ${word}`).join(' and ');
    return `(${every('null')}) or (${every('not null')})`;
  }

  build(): Table {
    const { name, columns, primaryKey, uniques, checks } = this;
    const { constraints, options, triggers, indexes, statement } = this.kept;
    const held = (columns: readonly string[]) => columns.join('\n').toLowerCase();
    const stated = new Map(
      constraints.flatMap((sql): [string, string][] => {
        const columns = foreignKeyColumns(sql);
        return columns === null ? [] : [[held(columns), sql]];
      }),
    );
    const foreignKeys = this.foreignKeys.map((key) => ({ ...key, sql: stated.get(held(key.columns)) ?? null }));
    const used = new Set(foreignKeys.map((key) => key.sql));
    return {
      name,
      columns,
      primaryKey,
      foreignKeys,
      uniques,
      checks,
      indexes: [...this.indexes, ...indexes],
      constraints: constraints.filter((sql) => !used.has(sql)),
      options: this.style.asStated ? options : [...this.target.tableOptions, ...options],
      triggers: [...this.triggers.map((made) => ({ kind: 'made' as const, ...made })), ...triggers],
      statement,
      comment: this.target.comments ? this.note : null,
    };
  }

  private addTypeCheck(column: string, field: Field): void {
    const allowed = this.target.values.check(field.type, this.target.quote(column), field.key);
    if (allowed === null) return;
    const guarded = field.required
      ? allowed.sql
      : `${this.target.quote(column)} is null or ${allowed.joined ? `(${allowed.sql})` : allowed.sql}`;
    this.addCheck(`${column}_type`, guarded, `${this.label}.${field.name} is ${field.type.kind}`, null);
  }

  /** The stated name of a constraint, the generated one, or none where the tree says so. */
  private nameFor(named: string | null, generated: string, what: string, message: string | null): string | null {
    // A stated name stands as it is: an engine may let several tables use it.
    if (named !== null) {
      this.sources.push({ constraint: named, what, message });
      return named;
    }
    return this.style.asStated ? null : this.claim(generated, what, message);
  }

  private claim(name: string, what: string, message: string | null): string {
    let free = name;
    for (let number = 2; this.names.has(free.toLowerCase()); number++) free = generatedName(name, String(number));
    this.names.add(free.toLowerCase());
    this.sources.push({ constraint: free, what, message });
    return free;
  }
}
