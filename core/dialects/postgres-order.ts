import type { Column, Schema, Table } from '../schema/index.js';
import { sqlName, sqlTokens } from '../sql/index.js';

/** A statement of a schema, or a table of it, with what it makes and of which names it speaks. */
interface Unit {
  readonly table: Table | null;
  readonly sql: string;
  readonly makes: string;
  readonly speaksOf: ReadonlySet<string>;
}

/** A column whose default, or a check of a table, that calls what stands on tables itself. */
export interface Late {
  readonly table: Table;
  readonly column: Column | null;
  readonly check: Table['checks'][number] | null;
}

/** A schema's statements in an order that works: what each stands on comes before it. */
export interface Ordered {
  readonly first: readonly (Table | string)[];
  /** What is said of tables when all is there. */
  readonly late: readonly Late[];
  /** What stands on rows or on indexes, in the order in which it is told. */
  readonly others: readonly string[];
}

const MADE =
  /^create\s+(?:or\s+replace\s+)?(?:unlogged\s+|recursive\s+)?(function|procedure|view|table|type|domain|sequence|schema|extension)\s/i;

/**
 * Orders what a database is made of by what stands on what: a function may read tables, take a row of one, and be called by
 * the default of another. What is called in a body that is a text is looked for when it runs (PostgreSQL, `check_function_bodies`),
 * and counts for nothing here.
 */
export function inWorkingOrder(schema: Schema): Ordered {
  const early = schema.others.filter((sql) => MADE.test(sql));
  const made = [
    ...schema.prelude.map((sql) => unitOf(sql)),
    ...schema.tables.map(unitOfTable),
    ...early.map((sql) => unitOf(sql)),
  ];
  const notEarly = new Set(schema.others.filter((sql) => !early.includes(sql)).flatMap((sql) => nameMade(sql) ?? []));
  const byName = new Map<string, Unit[]>();
  for (const unit of made) byName.set(unit.makes, [...(byName.get(unit.makes) ?? []), unit]);
  const standsOn = (unit: Unit): Unit[] =>
    Array.from(unit.speaksOf).flatMap((name) => (byName.get(name) ?? []).filter((other) => other !== unit));
  // What stands on a table, but for tables that only call it.
  const onTables = new Set<Unit>();
  for (let grown = true; grown; ) {
    grown = false;
    for (const unit of made) {
      if (unit.table !== null || onTables.has(unit)) continue;
      if (standsOn(unit).some((other) => other.table !== null || onTables.has(other))) {
        onTables.add(unit);
        grown = true;
      }
    }
  }
  const lateNames = new Set(Array.from(onTables, ({ makes }) => makes));
  const late = schema.tables.flatMap((table) => lateOf(table, lateNames));
  const first: (Table | string)[] = [];
  const later = new Set<Unit>();
  const done = new Set<Unit>();
  const visit = (unit: Unit, above: ReadonlySet<Unit>): void => {
    if (done.has(unit) || above.has(unit)) return;
    const around = new Set([...above, unit]);
    for (const other of standsOn(unit)) {
      // A default or a check that comes late holds no table up.
      if (unit.table !== null && onTables.has(other)) continue;
      visit(other, around);
      if (later.has(other)) later.add(unit);
    }
    if (done.has(unit)) return;
    done.add(unit);
    if (unit.table === null && Array.from(unit.speaksOf).some((name) => notEarly.has(name))) later.add(unit);
    if (!later.has(unit)) first.push(unit.table === null ? unit.sql : without(unit.table, late));
  };
  for (const unit of made) visit(unit, new Set());
  const waiting = new Set(Array.from(later, ({ sql }) => sql));
  return { first, late, others: schema.others.filter((sql) => !early.includes(sql) || waiting.has(sql)) };
}

function unitOf(sql: string): Unit {
  // The values of an enumerated type are texts and name nothing.
  const spoken = /^create\s+type\s[\s\S]*\sas\s+enum\b/i.test(sql) ? sql.replace(/'(?:[^']|'')*'/g, "''") : sql;
  return { table: null, sql, makes: nameMade(sql) ?? '', speaksOf: namesIn(spoken) };
}

function unitOfTable(table: Table): Unit {
  if (table.statement !== null) return { ...unitOf(table.statement), table };
  const parts = [
    ...table.columns.flatMap(({ type, default: value, generated }) => [type, value ?? '', generated?.sql ?? '']),
    ...table.checks.map(({ expression }) => expression),
    ...table.options,
  ];
  return { table, sql: '', makes: table.name.name.toLowerCase(), speaksOf: namesIn(parts.join(' ; ')) };
}

function lateOf(table: Table, names: ReadonlySet<string>): Late[] {
  const speaks = (sql: string | null) => sql !== null && Array.from(namesIn(sql)).some((name) => names.has(name));
  return [
    ...table.columns.flatMap((column): Late[] => (speaks(column.default) ? [{ table, column, check: null }] : [])),
    ...table.checks.flatMap((check): Late[] => (speaks(check.expression) ? [{ table, column: null, check }] : [])),
  ];
}

function without(table: Table, late: readonly Late[]): Table {
  const own = late.filter((one) => one.table === table);
  if (own.length === 0) return table;
  return {
    ...table,
    columns: table.columns.map((column) => (own.some((one) => one.column === column) ? { ...column, default: null } : column)),
    checks: table.checks.filter((check) => !own.some((one) => one.check === check)),
  };
}

/** The name that a statement makes, without its schema, in lower case. */
function nameMade(sql: string): string | null {
  const begins = MADE.exec(sql) ?? /^create\s+(?:or\s+replace\s+)?(?:materialized\s+)?(view)\s/i.exec(sql);
  if (begins === null) return null;
  const tokens = sqlTokens(sql.slice(begins[0].length, begins[0].length + 400));
  const start = tokens[0]?.text.toLowerCase() === 'if' ? 3 : 0;
  const named = tokens[start + 1]?.text === '.' ? tokens[start + 2] : tokens[start];
  return named === undefined ? null : sqlName(named).toLowerCase();
}

/** Every name that SQL speaks of, and every text in it, which may be one: `nextval('loans_id_seq')`. */
function namesIn(sql: string): ReadonlySet<string> {
  const names = new Set<string>();
  for (const token of sqlTokens(withoutBodies(sql))) {
    if (token.kind === 'word' || token.kind === 'quoted') names.add(sqlName(token).toLowerCase());
    if (token.kind === 'string') names.add((sqlName(token).split('.').at(-1) ?? '').replaceAll('"', '').toLowerCase());
  }
  return names;
}

/** SQL without the bodies of functions that are texts between dollar signs. */
function withoutBodies(sql: string): string {
  return sql.replace(/(\$\w*\$)[\s\S]*?\1/g, ' ');
}
