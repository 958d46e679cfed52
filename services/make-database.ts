import { rm } from 'node:fs/promises';
import type { Design } from '../core/design/index.js';
import type { Dialect } from '../core/dialects/index.js';
import { entityOf } from '../core/model/index.js';
import { type Samples, samplesInSteps, type Unsatisfied } from '../core/samples/index.js';
import { type ForeignKey, foreignKeyIn, foreignTarget, type Schema, schemaOf, type Table } from '../core/schema/index.js';
import { allOf, column as columnOf, columnsOf, equal, number, selectOf, type TableName, tableSource } from '../core/sql/index.js';
import type { Wire } from '../core/values/index.js';
import { type Engine, type Insert, type KeyToHold, type Outcome, openSqlite } from '../engines/index.js';
import { checkRows } from './check-rows.js';
import { nowOf } from './clock.js';

/** A database that was made from a text. */
export interface MadeDatabase {
  /** How many rows stand in each table. */
  readonly rows: Readonly<Record<string, number>>;
  /** What could not be made as the text asks, by entity or relation and constraint. */
  readonly unsatisfied: readonly Unsatisfied[];
  /** What some of the rows do not hold to, and no constraint could keep: rules, and promises of a far side. */
  readonly unheld: readonly string[];
  /** Keys of the named sample rows, by `Entity(row)`. */
  readonly sampleKeys: Readonly<Record<string, Wire>>;
}

/** How far the making of a database is. */
export interface MakeProgress {
  readonly what: 'thinking out' | 'writing' | 'looking over';
  /** The rows thought out so far; then all of them. */
  readonly rows: number;
}

export interface MakeOptions {
  /** How large a file may grow. */
  readonly mostBytes?: number;
  /** Ends the making; nothing of it is kept. */
  readonly signal?: AbortSignal;
  /** Is told now and then how far it is. */
  readonly step?: (progress: MakeProgress) => void;
}

const LONGEST_MAKE = 120_000;
/** How often it is told how far the making is, in milliseconds. */
const TOLD_EVERY = 250;

/** What the engine does not look at while rows are put in. */
const HELD_BY_NONE = ['broken-rule', 'unkept-promise'];

/** Makes a new database from a design, with its samples. A file that is there already is replaced. */
export async function makeDatabase(design: Design, path: string, options: MakeOptions = {}): Promise<Outcome<MadeDatabase>> {
  const { mostBytes } = options;
  for (const suffix of ['', '-wal', '-shm']) await rm(`${path}${suffix}`, { force: true });
  const size = mostBytes === undefined ? {} : { mostBytes };
  const engine = openSqlite({ path, mode: 'make', milliseconds: LONGEST_MAKE, ...size });
  try {
    return await fillDatabase(design, engine, options);
  } finally {
    await engine.close();
  }
}

/**
 * Makes a design's tables and samples in an empty database of its dialect; those that are somebody else's too, since
 * nobody else has made them there.
 */
export async function fillDatabase(
  design: Design,
  engine: Engine,
  { signal, step }: MakeOptions = {},
): Promise<Outcome<MadeDatabase>> {
  const samples = await thoughtOut(design, { signal, step });
  if (samples === null) return STOPPED;
  const rows = samples.tables.reduce((sum, table) => sum + table.rows.length, 0);
  step?.({ what: 'writing', rows });
  const { schema } = schemaOf(design.model, design.dialect, { standIns: true });
  const { before, after } = design.dialect.steps(schema);
  const keys = [...keysOf(design, schema), ...typedKeysOf(design)];
  const request = { before, inserts: insertsOf(design, samples), keys, after };
  const made = await engine.make(request, signal === undefined ? {} : { signal });
  if (!made.ok) return made;
  step?.({ what: 'looking over', rows });
  const refused = made.value.refused.map(({ table, constraint, rows }) => ({
    owner: table,
    constraint: sourceOf(design, constraint),
    rows,
  }));
  const held = await checkRows(design, engine, {
    sampleKeys: samples.keys,
    madeHere: true,
    codes: HELD_BY_NONE,
    ...(signal === undefined ? {} : { signal }),
  });
  if (signal?.aborted === true) return STOPPED;
  return {
    ok: true,
    value: {
      rows: made.value.rows,
      unsatisfied: [...samples.unsatisfied, ...refused],
      unheld: held.findings.map(({ message }) => message),
      sampleKeys: samples.keys,
    },
  };
}

const STOPPED: Outcome<never> = { ok: false, problem: { code: 'ended', message: 'Stopped.' } };

/** The rows of the samples; null where the making was ended. What else the process is asked meanwhile it answers. */
async function thoughtOut(
  { model }: Design,
  { signal, step }: { readonly signal: AbortSignal | undefined; readonly step: MakeOptions['step'] },
): Promise<Samples | null> {
  const making = samplesInSteps(model, nowOf(model, true));
  let told = performance.now();
  for (let turn = making.next(); ; turn = making.next()) {
    if (turn.done === true) return turn.value;
    if (performance.now() - told < TOLD_EVERY) continue;
    step?.({ what: 'thinking out', rows: turn.value });
    await new Promise((resolve) => setImmediate(resolve));
    if (signal?.aborted === true) return null;
    told = performance.now();
  }
}

/** The foreign keys of a schema, as deletes of the rows that break them. */
function keysOf({ dialect }: Design, schema: Schema): KeyToHold[] {
  return schema.tables.flatMap((table) => {
    // Those that stand as SQL hold the rows that are made as well.
    const kept = table.constraints.flatMap((sql) => (/\bnot\s+valid\s*$/i.test(sql) ? [] : (foreignKeyIn(sql) ?? [])));
    return [...table.foreignKeys, ...kept].map((key) => ({
      table: table.name.name,
      parent: key.table,
      sql: danglingDelete(dialect, table, key),
    }));
  });
}

function danglingDelete(
  { quote, printQuery, print }: Dialect,
  table: Table,
  key: Pick<ForeignKey, 'columns' | 'schema' | 'table' | 'references'>,
): string {
  const { name } = table;
  const own = `${name.schema === null ? '' : `${quote(name.schema)}.`}${quote(name.name)}`;
  const parent = { schema: key.schema, name: key.table };
  // A key that names no columns points at those of the same names here: it is one that was brought in.
  const target = key.references.length > 0 ? key.references : key.columns;
  const filled = allOf(key.columns.map((column) => ({ kind: 'is null', operand: columnOf(name.name, column), negated: true })));
  const there = equal(columnsOf('there', target), columnsOf(name.name, key.columns));
  const found = printQuery(
    selectOf(tableSource(parent, 'there'), { columns: [{ expression: number(1), as: null }], where: there }),
  );
  return `delete from ${own} where ${filled === null ? '' : `${print(filled)} and `}not exists (${found})`;
}

/** The keys that no foreign key holds, since a column beside them says whose they are. */
function typedKeysOf({ model, dialect }: Design): KeyToHold[] {
  const { quote, print, values } = dialect;
  const named = ({ schema, name }: TableName) => `${schema === null ? '' : `${quote(schema)}.`}${quote(name)}`;
  return Array.from(model.relations.values()).flatMap((relation): KeyToHold[] => {
    if ((relation.kind !== 'polymorphic' && relation.kind !== 'polymorphic pivot') || relation.storage.kind === 'one of')
      return [];
    const { type, id, idType } = relation.storage;
    const children = relation.kind === 'polymorphic' ? tablesOf(model, relation.child) : [relation.table.value];
    return relation.targets.flatMap(({ entity, marks }) =>
      marks.flatMap((mark) => {
        const target = foreignTarget(model, marks.length === 1 ? entity : mark.entity);
        if (target.kind === 'tables') return [];
        const { key } = entityOf(model, entity);
        const own = columnOf('there', key.columns[0] ?? '');
        const held = JSON.stringify(key.type) === JSON.stringify(idType) ? own : values.toText(key.type, own);
        return children.map((child): KeyToHold => {
          const marked = `${quote(type.value)} = ${print({ kind: 'string', value: mark.mark })}`;
          const found = `exists (select 1 from ${named(target.table)} there where ${print(held)} = ${quote(child.name)}.${quote(id.value)})`;
          return {
            table: child.name,
            parent: target.table.name,
            sql: `delete from ${named(child)} where ${marked} and not ${found}`,
          };
        });
      }),
    );
  });
}

/** The tables in which an entity's rows stand. */
function tablesOf(model: Design['model'], name: string): readonly TableName[] {
  const target = foreignTarget(model, name);
  return target.kind === 'table' ? [target.table] : target.tables;
}

function sourceOf(design: Design, constraint: string): string {
  return design.sources.find((source) => source.constraint === constraint)?.what ?? constraint;
}

function insertsOf({ dialect }: Design, samples: Samples): Insert[] {
  const { values } = dialect;
  return samples.tables.flatMap(({ schema, table, columns, rows }): Insert[] => {
    if (rows.length === 0) return [];
    const into = dialect.insertInto(
      { schema, name: table },
      columns.map(({ name }) => name),
    );
    const bound = rows.map((row) => columns.map(({ name, type }) => values.bind(type, row.get(name) ?? null)));
    return [{ table, into, columns: columns.length, rows: bound }];
  });
}
