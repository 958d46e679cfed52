import type { Design } from '../core/design/index.js';
import { type Entity, entityOf } from '../core/model/index.js';
import { namedKeys } from '../core/samples/index.js';
import type { Wire } from '../core/values/index.js';
import type { Engine } from '../engines/index.js';
import { runQuery } from '../services/index.js';

const NOW = '2031-04-12T09:00:00.000000Z';

/** The keys of the rows that the program lets somebody see of an entity, as texts with `/` between their parts, sorted. */
export async function keysSeen(design: Design, engine: Engine, name: string, as: string): Promise<readonly string[]> {
  const { actor } = design.actorOf(as);
  if (actor === null) throw new Error(`nobody is ${as}`);
  const outcome = await runQuery(design, engine, {
    query: { kind: 'text', text: `from ${name}`, parameters: [] },
    parameters: {},
    sampleKeys: namedKeys(design.model, NOW),
    madeHere: true,
    rowLimit: 1000,
    as: actor,
  });
  if (!outcome.ok) throw new Error(outcome.problems.join());
  const rows = JSON.parse(outcome.answer.text) as readonly Readonly<Record<string, Wire>>[];
  const { key }: Entity = entityOf(design.model, name);
  return rows.map((row) => key.fields.map((field) => String(row[field.name])).join('/')).sort();
}
