import { tableKey } from '../core/changes/index.js';
import type { Design } from '../core/design/index.js';
import { type Schema, schemaOf } from '../core/schema/index.js';
import type { TableName } from '../core/sql/index.js';
import type { Engine, Outcome } from '../engines/index.js';

/** An empty database of the engine in question, to try things in, and how to be rid of it. */
export interface ScratchDatabase {
  readonly engine: Engine;
  remove(): Promise<void>;
}

/** Makes one. */
export type OpenScratch = (design: Design) => Promise<Outcome<ScratchDatabase>>;

/**
 * What a design asks of an engine, as that engine itself says it: its tables are made in a scratch database and read back, since
 * each engine writes down in its own words what it was told. Without the tables that are somebody else's.
 */
export async function wishedSchema(design: Design, openScratch: OpenScratch): Promise<Outcome<Schema>> {
  const scratch = await openScratch(design);
  if (!scratch.ok) return scratch;
  const { engine, remove } = scratch.value;
  try {
    const { schema } = schemaOf(design.model, design.dialect, { standIns: true });
    const { before, after } = design.dialect.steps(schema);
    const made = await engine.make({ before, inserts: [], keys: [], after, marked: false });
    if (!made.ok) return made;
    const read = await engine.introspect();
    if (!read.ok) return read;
    const own = new Set(design.schema.tables.map(({ name }) => tableKey(name)));
    const { prelude, tables, others } = read.value.schema;
    return { ok: true, value: { prelude, others, tables: tables.filter(({ name }) => own.has(tableKey(name))) } };
  } finally {
    await remove();
  }
}

/** The tables of a design that are somebody else's. */
export function givenTables({ model, dialect, schema }: Design): readonly TableName[] {
  const own = new Set(schema.tables.map(({ name }) => tableKey(name)));
  const all = schemaOf(model, dialect, { standIns: true }).schema.tables;
  return all.flatMap(({ name }) => (own.has(tableKey(name)) ? [] : [name]));
}
