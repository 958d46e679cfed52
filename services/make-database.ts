import { rm } from 'node:fs/promises';
import type { Design } from '../core/design/index.js';
import { sqliteDialect } from '../core/dialects/index.js';
import { bind } from '../core/load/index.js';
import type { Query } from '../core/model/index.js';
import { planQuery } from '../core/plan/index.js';
import { makeSamples, type Samples, type Unsatisfied } from '../core/samples/index.js';
import { sqliteValues, type Wire } from '../core/values/index.js';
import { type Engine, type Insert, type Outcome, openSqlite } from '../engines/index.js';
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
  const samples = makeSamples(design.model, nowOf(design.model));
  const engine = openSqlite({ path, mode: 'make', milliseconds: LONGEST_MAKE });
  try {
    const made = await engine.make({
      statements: sqliteDialect.createStatements(design.schema),
      inserts: insertsOf(design, samples),
    });
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
  } finally {
    await engine.close();
  }
}

function sourceOf(design: Design, constraint: string): string {
  return design.sources.find((source) => source.constraint === constraint)?.what ?? constraint;
}

function insertsOf(design: Design, samples: Samples): Insert[] {
  const { model } = design;
  const { quote } = sqliteDialect;
  return samples.tables.flatMap(({ table, owner, rows }): Insert[] => {
    const first = rows[0];
    if (first === undefined) return [];
    const columns = Array.from(first.keys());
    const types = new Map<string, Parameters<typeof sqliteValues.bind>[0]>();
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
    const sql = `insert into ${quote(table)} (${columns.map(quote).join(', ')}) values (${columns.map(() => '?').join(', ')})`;
    const bound = rows.map((row) =>
      columns.map((column) => sqliteValues.bind(types.get(column) ?? { kind: 'text', length: null }, row.get(column) ?? null)),
    );
    return [{ table, sql, rows: bound }];
  });
}

/** Counts the rows that break each rule: no constraint can hold a rule, so it is looked at in the rows. */
async function brokenRules(design: Design, engine: Engine): Promise<MadeDatabase['brokenRules']> {
  const broken: { entity: string; rule: string; rows: number }[] = [];
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
      const plan = planQuery(design.model, query, { values: sqliteValues, keysHold: true });
      const bound = bind(plan.bindings, { parameters: {}, now: nowOf(design.model), sampleKeys: {} }, sqliteValues);
      const counted = bound.ok ? await engine.read(sqliteDialect.printQuery(plan.select), bound.parameters) : null;
      const rows = counted?.ok === true ? Number(counted.value[0]?.[0] ?? 0) : 0;
      if (rows > 0) broken.push({ entity: entity.name, rule: rule.name, rows });
    }
  }
  return broken;
}
