import { SHOWN, shownEntity } from '../core/browse/index.js';
import type { Design } from '../core/design/index.js';
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
  const { values } = design.dialect;
  const plan = planQuery(model, query, { dialect: design.dialect, keysHold: madeHere, rowKeys: true });
  const bound = bind(plan.bindings, { parameters: {}, now: nowOf(model, madeHere), sampleKeys: {} }, values);
  const request = { query: plan.select, outputs: plan.outputs, options: { typesHold: madeHere, rowLimit: MOST_CHOICES } };
  const read = bound.ok ? await engine.fetch({ ...request, parameters: bound.parameters }) : null;
  if (read?.ok !== true) return { rows: [], more: false };
  const { cells, cut } = read.value;
  const keyAt = plan.outputs.findIndex((output) => output.name === entity.key.name);
  const shownAt = plan.outputs.findIndex((output) => output.name === SHOWN);
  const keys = cells[keyAt] ?? [];
  const rows = keys.map((key, row) => ({ key: String(key ?? ''), shown: String(cells[shownAt]?.[row] ?? key ?? '') }));
  return { rows, more: cut };
}
