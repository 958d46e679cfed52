import { SHOWN, shownEntity } from '../core/browse/index.js';
import type { Design } from '../core/design/index.js';
import { sqliteDialect } from '../core/dialects/index.js';
import { bind } from '../core/load/index.js';
import { entityOf, type Query } from '../core/model/index.js';
import { planQuery } from '../core/plan/index.js';
import type { Engine } from '../engines/index.js';
import { nowOf } from './clock.js';

export interface RowChoice {
  readonly key: string;
  /** How the entity says that a row is shown. */
  readonly shown: string;
}

const MOST_CHOICES = 200;

/** The rows of an entity to choose from, in its order; `more` where there are too many to list. */
export async function rowChoices(
  design: Design,
  engine: Engine,
  name: string,
  madeHere: boolean,
): Promise<{ rows: RowChoice[]; more: boolean }> {
  const entity = entityOf(design.model, name);
  const { span } = entity;
  const query: Query = {
    name: null,
    entity: name,
    parameters: [],
    where: [],
    orderBy: entity.orderBy,
    limit: { kind: 'value', value: String(MOST_CHOICES + 1), type: { kind: 'integer' }, span },
    offset: null,
    loads: [],
    cardinality: 'many',
    note: null,
    span,
  };
  const model = { ...design.model, entities: new Map(design.model.entities).set(name, shownEntity(entity)) };
  const plan = planQuery(model, query, { values: sqliteDialect.values, keysHold: madeHere, rowKeys: true });
  const bound = bind(plan.bindings, { parameters: {}, now: nowOf(model), sampleKeys: {} }, sqliteDialect.values);
  const read = bound.ok ? await engine.read(sqliteDialect.printQuery(plan.select), bound.parameters) : null;
  if (read?.ok !== true) return { rows: [], more: false };
  const keyAt = plan.outputs.findIndex((output) => output.name === entity.key.name);
  const shownAt = plan.outputs.findIndex((output) => output.name === SHOWN);
  const rows = read.value
    .slice(0, MOST_CHOICES)
    .map((row) => ({ key: String(row[keyAt] ?? ''), shown: String(row[shownAt] ?? row[keyAt] ?? '') }));
  return { rows, more: read.value.length > MOST_CHOICES };
}
