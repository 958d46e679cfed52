import { type Model, resolve } from '../model/index.js';
import { type Declaration, format, parse } from '../notation/index.js';
import { foreignKeyColumns, type Schema, schemaOf, type Table, withoutOwnTables, writtenTriggers } from '../schema/index.js';
import { tableShape } from '../sql/index.js';
import { admitted } from './admitted.js';
import { statementOf } from './constraints.js';
import { indexSql } from './context.js';
import { importEngines, shapesOf } from './engines.js';
import { type Existing, fullName, type GivenNames, isSpeakable, NO_NAMES, placeOf, targetOf } from './existing.js';
import { type ImportSummary, type KeptAsSql, summaryOf, type Written, write } from './write.js';

/** A text for a database, and what of the database it does not say. */
export interface Imported {
  readonly text: string;
  /** How many of what came in, in one line. */
  readonly summary: ImportSummary;
  /** What is kept as SQL, since the notation has no word for it. One line each: the thing, and why. */
  readonly kept: readonly string[];
  /** What could not be carried at all. One line each: the thing, and what became of it. */
  readonly report: readonly string[];
}

/** What each table says, for comparing. */
type Shapes = ReadonlyMap<Table, readonly string[]>;

/** Each pass moves what the sentences were found not to say into kept SQL; a table is kept whole at the last. */
const MOST_PASSES = 8;

/**
 * The kin text of a database: entities, fields, keys, relations, pivots and one-to-ones, under names that a person
 * would choose. The same database gives the same text.
 *
 * Nothing is taken on trust: the schema that the text makes is compared with the database's own, and what its
 * sentences turn out not to say is kept as SQL instead. What is still missing then is in the report.
 */
export function importSchema(found: Existing, title: string, given: GivenNames = NO_NAMES): Imported {
  const { existing, refused } = admitted({ ...found, schema: withoutOwnTables(found.schema) });
  const engine = importEngines[existing.dialect];
  const carried: KeptAsSql = {
    whole: new Set(),
    apart: new Set(),
    noPivots: new Set(),
    noRelations: new Set(),
    keptChecks: new Set(),
  };
  const shapes: Shapes = new Map(existing.schema.tables.map((table) => [table, shapesOf(existing, table)]));
  for (let pass = 1; ; pass++) {
    const written = write(existing, title, given, carried);
    const text = format(written.text);
    const syntax = parse(text);
    const { model, findings } = resolve(syntax);
    const errors = findings.filter((finding) => finding.weight === 'error');
    const wrong = errors.flatMap(
      ({ span }) => syntax.declarations.find((part) => part.span.start <= span.start && span.end <= part.span.end) ?? [],
    );
    const { schema } = schemaOf(model, engine.dialect);
    const more = pass < MOST_PASSES && (setApart(wrong, written, model, carried) || keepMore(existing, shapes, schema, carried));
    if (more) continue;
    return {
      text,
      summary: summaryOf(existing, written),
      kept: keptLines(existing, schema, written, carried),
      report: [...refused, ...missing(existing, shapes, schema)],
    };
  }
}

/** Takes out of the sentences what they could not say without an error. */
function setApart(wrong: readonly Declaration[], written: Written, model: Model, carried: KeptAsSql): boolean {
  let changed = false;
  const add = (set: Set<string>, place: string) => {
    if (set.has(place)) return;
    set.add(place);
    changed = true;
  };
  for (const declaration of wrong) {
    if (declaration.kind === 'relation') {
      const link = written.links.find(({ name }) => name === declaration.name.text);
      const pair = written.pivots.find(({ name }) => name === declaration.name.text);
      if (link !== undefined) add(carried.noRelations, placeOf(fullName(link.child.table.name), ...link.key.columns));
      if (pair !== undefined) add(carried.noPivots, placeOf(fullName(pair.table.name)));
    }
    if (declaration.kind === 'entity') {
      const entity = written.entities.find((candidate) => candidate.entity === declaration.name.text);
      // An error in a line costs that line, which the comparison finds; one that costs the entity sets it apart.
      if (entity !== undefined && !model.entities.has(entity.entity)) add(carried.apart, placeOf(fullName(entity.table.name)));
    }
  }
  return changed;
}

/** Compares what the text makes with what there is; what differs is kept, first check by check, then whole. */
function keepMore(existing: Existing, shapes: Shapes, made: Schema, carried: KeptAsSql): boolean {
  const engine = importEngines[existing.dialect];
  const tables = new Map(made.tables.map((table) => [fullName(table.name).toLowerCase(), table]));
  let changed = false;
  for (const table of existing.schema.tables) {
    const place = placeOf(fullName(table.name));
    if (carried.whole.has(place) || carried.apart.has(place) || !isSpeakable(table)) continue;
    const own = tables.get(fullName(table.name).toLowerCase());
    const wanted = shapes.get(table) ?? [];
    if (own !== undefined && isSameShape(engine.shape(own, undefined), wanted)) continue;
    changed = true;
    const lost = table.checks.filter((check) => {
      const checkPlace = placeOf(fullName(table.name), check.expression);
      const shape = `(${engine.plainCheck(check.expression)})`;
      return (
        !carried.keptChecks.has(checkPlace) &&
        own?.checks.some((other) => sameCheck(`(${other.expression})`, shape, !engine.numbersRows)) !== true
      );
    });
    for (const check of lost) carried.keptChecks.add(placeOf(fullName(table.name), check.expression));
    if (lost.length === 0) carried.whole.add(place);
  }
  return changed;
}

/** @param bracketed the engine brackets every part of a condition, so that brackets alone make no difference */
function sameCheck(a: string, b: string, bracketed: boolean): boolean {
  const of = (sql: string) => tableShape(`create table t (check ${bracketed ? `(${sql.replace(/[()]/g, ' ')})` : sql})`).join();
  return of(a) === of(b);
}

function isSameShape(a: readonly string[], b: readonly string[]): boolean {
  return a.join('\n') === b.join('\n');
}

/** What the text keeps as SQL, for a person to know of. */
function keptLines({ schema }: Existing, made: Schema, written: Written, carried: KeptAsSql): string[] {
  const lines: string[] = [];
  const tables = new Map(made.tables.map((table) => [fullName(table.name).toLowerCase(), table]));
  for (const { table, key } of written.constraints)
    lines.push(
      `${table.name.name}: the foreign key (${key.columns.join(', ')}) → ${key.table} is a constraint only; ${whyNoRelation(schema, key, written)}.`,
    );
  for (const table of schema.tables) {
    const { name } = table.name;
    const place = placeOf(name);
    if (written.apart.includes(table)) lines.push(`${name}: the whole table, since ${whyApart(table)}.`);
    else if (carried.whole.has(place)) lines.push(`${name}: its CREATE TABLE, which says more than the sentences can.`);
    const own = tables.get(fullName(table.name).toLowerCase());
    const others = own?.constraints.filter((sql) => foreignKeyColumns(sql) === null).length ?? 0;
    if (others > 0) lines.push(`${name}: ${others === 1 ? 'one constraint' : `${others} constraints`}.`);
    for (const key of table.foreignKeys)
      if (key.sql !== null && !written.constraints.some((constraint) => constraint.key === key))
        lines.push(`${name}: the foreign key (${key.columns.join(', ')}) → ${key.table}, which says more than its rules.`);
    for (const option of table.options) lines.push(`${name}: ${option.toLowerCase()}.`);
    for (const index of table.indexes)
      if (index.sql !== null)
        lines.push(`${name}: the index ${index.name}, which has a condition, an expression, an order or a collation.`);
    if (table.triggers.length > 0)
      lines.push(`${name}: ${table.triggers.length === 1 ? 'one trigger' : `${table.triggers.length} triggers`}.`);
  }
  for (const sql of [...schema.prelude, ...schema.others]) lines.push(`${headOf(sql)}.`);
  return lines;
}

function whyApart(table: Table): string {
  if (!isSpeakable(table)) return 'one of its names holds a character that a text cannot';
  return 'it has no key by which a text could tell its rows apart';
}

function whyNoRelation(schema: Schema, key: Table['foreignKeys'][number], written: Written): string {
  const target = schema.tables.find((table) => fullName(table.name).toLowerCase() === targetOf(key).toLowerCase());
  if (target === undefined) return `there is no table ${key.table}`;
  const entity = written.entities.find((candidate) => candidate.table === target);
  if (entity === undefined) return `${key.table} is no entity of the text`;
  const references = key.references.length === 0 ? target.primaryKey.columns : key.references;
  if (references.join('\n').toLowerCase() !== entity.key.join('\n').toLowerCase())
    return `(${references.join(', ')}) is not the key of ${key.table}`;
  return 'its columns hold another relation’s key already, or do not fit the key';
}

/** The first words of a statement, as `CREATE VIEW recent`. */
function headOf(sql: string): string {
  const [, head = sql] =
    /^\s*(create\s+(?:or\s+replace\s+)?(?:temp\w*\s+)?(?:materialized\s+)?(?:unique\s+|virtual\s+)?\w+\s+(?:if\s+not\s+exists\s+)?(?:"[^"]*"|[^\s(]+))/i.exec(
      sql,
    ) ?? [];
  return head.replace(/\s+/g, ' ').slice(0, 120);
}

/** What of a database a schema does not make, one line each. */
function missing(existing: Existing, shapes: Shapes, made: Schema): string[] {
  const engine = importEngines[existing.dialect];
  const lines: string[] = [];
  const tables = new Map(made.tables.map((table) => [fullName(table.name).toLowerCase(), table]));
  const others = new Set([...made.prelude, ...made.others].map(spaced));
  for (const table of existing.schema.tables) {
    const { name } = table.name;
    const own = tables.get(fullName(table.name).toLowerCase());
    const statement =
      engine.dialect.name === 'mariadb' ? (existing.statements.get(name) ?? '') : statementOf(engine, table, existing.statements);
    if (own === undefined) {
      if (!others.has(spaced(statement)))
        lines.push(`${shown(name)}: the table is not carried, since its statement holds what no text can.`);
      continue;
    }
    if (!isSameShape(engine.shape(own, undefined), shapes.get(table) ?? []))
      lines.push(`${shown(name)}: what its CREATE TABLE says is not carried whole.`);
    const indexes = new Set(own.indexes.map((index) => spaced(indexSql(engine.dialect, own, index))));
    for (const index of table.indexes)
      if (!indexes.has(spaced(indexSql(engine.dialect, table, index))))
        lines.push(`${shown(name)}: the index ${shown(index.name)} is not carried.`);
    const triggers = new Set(writtenTriggers(own).map(({ sql }) => spaced(sql)));
    for (const { sql } of writtenTriggers(table))
      if (!triggers.has(spaced(sql))) lines.push(`${shown(name)}: ${shown(headOf(sql))} is not carried.`);
  }
  for (const sql of [...existing.schema.prelude, ...existing.schema.others])
    if (!others.has(spaced(sql))) lines.push(`${shown(headOf(sql))}: not carried.`);
  return lines;
}

function spaced(sql: string): string {
  return sql.replace(/\s+/g, ' ').trim();
}

/** A name as a report can show it on one line. */
function shown(name: string): string {
  return name.replace(/[\x00-\x1f\x7f]/g, '␀').slice(0, 120);
}
