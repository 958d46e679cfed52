import { deleteGraph } from '../cascades/index.js';
import type { Dialect } from '../dialects/index.js';
import type { Model } from '../model/index.js';
import { type Schema, schemaOf, triggerName } from '../schema/index.js';
import { placeOf } from '../sql/index.js';
import type { KeptTables } from './journal.js';

/**
 * What it takes to keep how the rows of a database were.
 *
 * @param actual the schema as it was read from the database
 */
export function keptTables(model: Model, dialect: Dialect, actual: Schema): KeptTables {
  const wished = schemaOf(model, dialect, { standIns: true }).schema;
  const made = new Map(wished.tables.map(({ name, triggers }) => [placeOf(name), new Set(triggers.map(triggerName))]));
  return {
    graph: deleteGraph(model, dialect, actual),
    tables: actual.tables.map(({ name, primaryKey, columns, triggers }) => ({
      table: name,
      key: primaryKey.columns,
      columns: columns.filter(({ generated }) => generated === null).map((one) => ({ name: one.name, declared: one.type })),
      triggers: triggers.map(triggerName).filter((trigger) => made.get(placeOf(name))?.has(trigger) !== true),
    })),
  };
}
