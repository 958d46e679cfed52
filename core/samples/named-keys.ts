import { entityOf, type Model, type Sample } from '../model/index.js';
import type { Wire } from '../values/index.js';
import { makeSamples } from './samples.js';

/**
 * The keys of the rows that a text names, by `Entity(row)`, without the rows that are generated beside them: however many
 * those are, they take no time here. They are the keys that `makeSamples` gives.
 *
 * @param now what now is, as a timestamp in wire form
 */
export function namedKeys(model: Model, now: string): Readonly<Record<string, Wire>> {
  const named = model.samples.filter(({ rows }) => rows.length > 0);
  if (named.length === 0) return {};
  // Kinds share their numbers with the generated rows of others; a composite key is made of rows that are chosen among all.
  const rests = named.some(({ entity }) => {
    const { kinds, key } = entityOf(model, entity);
    return kinds !== null || key.type.kind === 'composite';
  });
  return makeSamples(rests ? model : { ...model, samples: model.samples.map(withoutGenerated) }, now).keys;
}

function withoutGenerated(sample: Sample): Sample {
  return {
    ...sample,
    count: sample.count === null ? null : 0,
    generators: sample.generators.filter(({ generator }) => generator.kind !== 'each'),
  };
}
