import type { BoundParameter } from '../core/values/index.js';
import type { CallOptions, Engine, Outcome } from './engine.js';

type Parameters = Readonly<Record<string, BoundParameter>>;
type Rows = readonly (readonly unknown[])[];

/** Runs one reading statement of an engine's own. */
export type ReadRaw = (sql: string, parameters: Parameters, options?: CallOptions) => Promise<Outcome<Rows>>;

const readers = new WeakMap<Engine['run'], ReadRaw>();

/** Lets an engine's own statements be read. It is found by how the engine carries out runs, which a copy of it has too. */
export function readableBy(engine: Engine, read: ReadRaw): Engine {
  readers.set(engine.run, read);
  return engine;
}

/**
 * The rows of a statement that is the program's own: an engine's catalogue, what stands around a database. Rows of entities come by
 * runs; this is no door of the folder.
 */
export function rawRows(engine: Engine, sql: string, parameters: Parameters = {}, options?: CallOptions): Promise<Outcome<Rows>> {
  const read = readers.get(engine.run);
  if (read === undefined) throw new Error('this engine is not one of this folder');
  return read(sql, parameters, options);
}
