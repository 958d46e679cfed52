import { rm } from 'node:fs/promises';
import type { Design } from '../core/design/index.js';
import type { Dialect } from '../core/dialects/index.js';
import { bind } from '../core/load/index.js';
import type { Query } from '../core/model/index.js';
import { planQuery } from '../core/plan/index.js';
import { makeSamples, type Samples, type Unsatisfied } from '../core/samples/index.js';
import type { ForeignKey, Table } from '../core/schema/index.js';
import { allOf, column as columnOf, columnsOf, equal } from '../core/sql/index.js';
import type { ValueType, Wire } from '../core/values/index.js';
import { type Engine, type Insert, type KeyToHold, type Outcome, openSqlite } from '../engines/index.js';
import { nowOf } from './clock.js';

/** A database that was made from a text. */
export interface MadeDatabase {
  /** How many rows stand in each table. */
  readonly rows: Readonly<Record<string, number>>;
  /** What could not be made as the text asks, by entity or relation and constraint. */
  readonly unsatisfied: readonly Unsatisfied[];
  /** Rules that some of the rows break, and how many do. */
  readonly brokenRules: readonly { readonly entity: string; readonly rule: string; readonly rows: number }[];
  /** Keys of the named sample rows, by `Entity(row)`. */
  readonly sampleKeys: Readonly<Record<string, Wire>>;
}

const LONGEST_MAKE = 60_000;

/** Makes a new database from a design, with its samples. A file that is there already is replaced. */
export async function makeDatabase(design: Design, path: string): Promise<Outcome<MadeDatabase>> {
  for (const suffix of ['', '-wal', '-shm']) await rm(`${path}${suffix}`, { force: true });
  const engine = openSqlite({ path, mode: 'make', milliseconds: LONGEST_MAKE });
  try {
    return await fillDatabase(design, engine);
  } finally {
    await engine.close();
  }
}

/** Makes a design's tables and samples in an empty database of its dialect. */
export async function fillDatabase(design: Design, engine: Engine): Promise<Outcome<MadeDatabase>> {
  const samples = makeSamples(design.model, nowOf(design.model));
  const { before, after } = design.dialect.steps(design.schema);
  const made = await engine.make({ before, inserts: insertsOf(design, samples), keys: keysOf(design), after });
  if (!made.ok) return made;
  const refused = made.value.refused.map(({ table, constraint, rows }) => ({
    owner: table,
    constraint: sourceOf(design, constraint),
    rows,
  }));
  return {
    ok: true,
    value: {
      rows: made.value.rows,
      unsatisfied: [...samples.unsatisfied, ...refused],
      brokenRules: await brokenRules(design, engine),
      sampleKeys: samples.keys,
    },
  };
}

/** The foreign keys of a schema, as deletes of the rows that break them. */
function keysOf({ schema, dialect }: Design): KeyToHold[] {
  return schema.tables.flatMap((table) =>
    table.foreignKeys.map((key) => ({ table: table.name.name, parent: key.table, sql: danglingDelete(dialect, table, key) })),
  );
}

function danglingDelete({ quote, printQuery, print }: Dialect, table: Table, key: ForeignKey): string {
  const { name } = table;
  const own = `${name.schema === null ? '' : `${quote(name.schema)}.`}${quote(name.name)}`;
  const parent = { schema: key.schema, name: key.table };
  // A key that names no columns points at those of the same names here: it is one that was brought in.
  const target = key.references.length > 0 ? key.references : key.columns;
  const filled = allOf(key.columns.map((column) => ({ kind: 'is null', operand: columnOf(name.name, column), negated: true })));
  const there = equal(columnsOf('there', target), columnsOf(name.name, key.columns));
  const found = printQuery({
    kind: 'select',
    columns: [{ expression: { kind: 'number', text: '1' }, as: null }],
    from: { from: { kind: 'table', table: parent }, alias: 'there', entity: null },
    joins: [],
    where: there,
    orderBy: [],
    limit: null,
    offset: null,
  });
  return `delete from ${own} where ${filled === null ? '' : `${print(filled)} and `}not exists (${found})`;
}

function sourceOf(design: Design, constraint: string): string {
  return design.sources.find((source) => source.constraint === constraint)?.what ?? constraint;
}

function insertsOf(design: Design, samples: Samples): Insert[] {
  const { model, dialect } = design;
  const { values } = dialect;
  return samples.tables.flatMap(({ table, owner, rows }): Insert[] => {
    const first = rows[0];
    if (first === undefined) return [];
    const columns = Array.from(first.keys());
    const types = new Map<string, ValueType>();
    const entity = model.entities.get(owner);
    const relation = model.relations.get(owner);
    const fields = entity?.table.value.name === table ? entity.fields : relation?.kind === 'pivot' ? relation.fields : [];
    for (const field of fields) types.set(field.column.value, field.type);
    for (const link of model.relations.values()) {
      const parents =
        link.kind === 'key'
          ? link.child === owner
            ? [[link.columns, link.parent] as const]
            : []
          : link.name === owner
            ? link.ends.map((end) => [end.columns, end.entity] as const)
            : [];
      for (const [held, parent] of parents) {
        for (const [index, { value: column }] of held.entries()) {
          const part = model.entities.get(parent)?.key.fields[index];
          if (part !== undefined && !types.has(column)) types.set(column, part.type);
        }
      }
    }
    const schema = (entity ?? null)?.table.value.schema ?? (relation?.kind === 'pivot' ? relation.table.value.schema : null);
    const into = dialect.insertInto({ schema, name: table }, columns);
    const bound = rows.map((row) =>
      columns.map((column) => values.bind(types.get(column) ?? { kind: 'text', length: null }, row.get(column) ?? null)),
    );
    return [{ table, into, columns: columns.length, rows: bound }];
  });
}

/** Counts the rows that break each rule: no constraint can hold a rule, so it is looked at in the rows. */
async function brokenRules(design: Design, engine: Engine): Promise<MadeDatabase['brokenRules']> {
  const broken: { entity: string; rule: string; rows: number }[] = [];
  const { values } = design.dialect;
  for (const entity of design.model.entities.values()) {
    for (const rule of entity.rules) {
      const query: Query = {
        name: null,
        entity: entity.name,
        parameters: [],
        orderBy: [],
        limit: null,
        offset: null,
        loads: [],
        cardinality: 'count',
        note: null,
        span: rule.span,
        where: [{ kind: 'not', operand: rule.expression, type: { kind: 'boolean' }, span: rule.span }],
      };
      const plan = planQuery(design.model, query, { dialect: design.dialect, keysHold: true });
      const bound = bind(plan.bindings, { parameters: {}, now: nowOf(design.model), sampleKeys: {} }, values);
      const request = { query: plan.select, outputs: plan.outputs, options: { typesHold: true, rowLimit: 1 } };
      const counted = bound.ok ? await engine.fetch({ ...request, parameters: bound.parameters }) : null;
      const rows = counted?.ok === true ? Number(counted.value.cells[0]?.[0] ?? 0) : 0;
      if (rows > 0) broken.push({ entity: entity.name, rule: rule.name, rows });
    }
  }
  return broken;
}
