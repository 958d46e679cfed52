import { type ColumnGroup, type Condition, type Field, generatedName } from '../model/index.js';
import type { SqlExpression, TableName } from '../sql/index.js';
import type { EngineValues } from '../values/index.js';
import { rowLeaves, toSql } from './conditions.js';
import type { Check, Column, ConstraintSource, ForeignKey, Index, Table, Unique } from './schema.js';

/** How an engine writes what a schema keeps as SQL. */
export interface SchemaTarget {
  readonly values: EngineValues;
  quote(name: string): string;
  print(expression: SqlExpression): string;
}

/** Gathers one table. Names of constraints are made here, unique in the database. */
export class TableBuilder {
  readonly columns: Column[] = [];
  readonly foreignKeys: ForeignKey[] = [];
  readonly uniques: Unique[] = [];
  readonly indexes: Index[] = [];
  readonly checks: Check[] = [];
  primaryKey: Table['primaryKey'] = { columns: [], autoincrement: false };

  constructor(
    readonly name: TableName,
    readonly label: string,
    private readonly target: SchemaTarget,
    private readonly names: Set<string>,
    private readonly sources: ConstraintSource[],
  ) {}

  addField(field: Field): void {
    const { values } = this.target;
    const integerKey = field.key && (field.type.kind === 'integer' || field.type.kind === 'bigint');
    this.columns.push({
      name: field.column.value,
      type: integerKey ? values.keyType(field.type) : values.columnType(field.type),
      notNull: field.required && !integerKey,
      default: field.default === null ? null : values.defaultOf(field.type, field.default),
    });
    this.addTypeCheck(field.column.value, field);
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

  /** A column that holds another table's key. What it may hold is kept by its foreign key. */
  addKeyColumn(name: string, key: Field, required: boolean): void {
    this.columns.push({ name, type: this.target.values.columnType(key.type), notNull: required, default: null });
  }

  addForeignKey(
    column: string,
    table: string,
    key: string,
    onDelete: ForeignKey['onDelete'],
    onUpdate: ForeignKey['onUpdate'],
    what: string,
  ): void {
    const name = this.claim(generatedName(this.name.name, column, 'fkey'), what, null);
    this.foreignKeys.push({ name, columns: [column], table, references: [key], onDelete, onUpdate });
  }

  addUnique(columns: readonly string[], what: string, message: string | null): void {
    if (this.uniques.some((unique) => unique.columns.join() === columns.join())) return;
    this.uniques.push({ name: this.claim(generatedName(this.name.name, ...columns, 'unique'), what, message), columns });
  }

  addIndex(columns: readonly string[]): void {
    const covered = [
      this.primaryKey.columns,
      ...this.uniques.map((unique) => unique.columns),
      ...this.indexes.map((index) => index.columns),
    ];
    if (covered.some((other) => columns.every((column, position) => other[position] === column))) return;
    this.indexes.push({
      name: this.claim(generatedName(this.name.name, ...columns, 'index'), `index on ${columns.join(', ')}`, null),
      columns,
      unique: false,
    });
  }

  addGroups(uniques: readonly ColumnGroup[], indexes: readonly ColumnGroup[]): void {
    for (const unique of uniques)
      this.addUnique(unique.columns, `${this.label}: unique (${unique.members.join(', ')})`, unique.message);
    for (const index of indexes) this.addIndex(index.columns);
  }

  addConditions(checks: readonly Condition[], fields: readonly Field[]): void {
    for (const check of checks) {
      const expression = this.target.print(toSql(check.expression, rowLeaves(this.target.values, fields)));
      this.addCheck(check.name, expression, `${this.label}: check ${check.name}`, check.message);
    }
  }

  addCheck(name: string, expression: string, what: string, message: string | null): void {
    this.checks.push({ name: this.claim(generatedName(this.name.name, name), what, message), expression });
  }

  /** The condition that one column's value comes before the other's. */
  inOrder(first: string, second: string): string {
    return `${this.target.quote(first)} < ${this.target.quote(second)}`;
  }

  build(): Table {
    const { name, columns, primaryKey, foreignKeys, uniques, checks, indexes } = this;
    return { name, columns, primaryKey, foreignKeys, uniques, checks, indexes };
  }

  private addTypeCheck(column: string, field: Field): void {
    const expression = this.target.values.check(field.type, this.target.quote(column), field.key);
    if (expression === null) return;
    const guarded = !field.required
      ? `${this.target.quote(column)} is null or ${/ (or|and) /.test(expression) ? `(${expression})` : expression}`
      : expression;
    this.addCheck(`${column}_type`, guarded, `${this.label}.${field.name} is ${field.type.kind}`, null);
  }

  private claim(name: string, what: string, message: string | null): string {
    let free = name;
    for (let number = 2; this.names.has(free.toLowerCase()); number++) free = generatedName(name, String(number));
    this.names.add(free.toLowerCase());
    this.sources.push({ constraint: free, what, message });
    return free;
  }
}
