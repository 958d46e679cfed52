import { entityOf, lineage, type Model, type Sample, type SampleGenerator, type SampleRow } from '../model/index.js';
import type { Wire } from '../values/index.js';

/** The samples that a text states for one entity, all its lines together. */
export interface StatedSamples {
  readonly rows: SampleRow[];
  count: number | null;
  readonly generators: Map<string, SampleGenerator>;
  /** A sample speaks of the entity itself, so that it has as many rows as are said, or none. */
  said: boolean;
}

/** The entities that rows of this one can be of: itself, or its concrete kinds. */
export function concreteOf(model: Model, name: string): string[] {
  return entityOf(model, name).kinds?.concrete.map(({ entity }) => entity) ?? [name];
}

export function statedSamples(model: Model): Map<string, StatedSamples> {
  const stated = new Map<string, StatedSamples>();
  const statedOf = (name: string): StatedSamples => {
    const known = stated.get(name) ?? { rows: [], count: null, generators: new Map(), said: false };
    stated.set(name, known);
    return known;
  };
  for (const sample of model.samples) {
    const concrete = concreteOf(model, sample.entity);
    const own = concrete.includes(sample.entity) ? [sample.entity] : concrete;
    const [first] = own;
    const rows = first === undefined ? [] : statedOf(first).rows;
    for (const row of sample.rows) if (!rows.some((other) => other.name === row.name)) rows.push(row);
    // Rows of a base that no row is of itself are shared out among its kinds.
    own.forEach((name, index) => {
      const known = statedOf(name);
      if (concrete.length === 1 || own.length === 1 || sample.rows.length > 0) known.said = true;
      if (sample.count === null) return;
      known.said = true;
      known.count = (known.count ?? 0) + Math.floor(sample.count / own.length) + (index < sample.count % own.length ? 1 : 0);
    });
  }
  // A generator of a base is for its kinds too; that of the entity itself comes last, and replaces it.
  const samples = new Map<string, Sample[]>();
  for (const sample of model.samples) samples.set(sample.entity, [...(samples.get(sample.entity) ?? []), sample]);
  if (model.samples.some(({ generators }) => generators.length > 0))
    for (const name of model.entities.keys())
      for (const { name: above } of lineage(model, name))
        for (const sample of samples.get(above) ?? []) {
          if (sample.generators.length === 0 || !concreteOf(model, name).includes(name)) continue;
          for (const generator of sample.generators) statedOf(name).generators.set(generator.member, generator);
        }
  return stated;
}

/** The keys that an entity's rows will have, where they are numbered from 1. */
export function plannedRows(model: Model, stated: ReadonlyMap<string, StatedSamples>, name: string, byDefault: number): Wire[] {
  const { key, kinds } = entityOf(model, name);
  // All kinds of a base share the numbers, and which are left is not known before.
  if (kinds !== null || (key.type.kind !== 'integer' && key.type.kind !== 'bigint')) return [];
  const wanted = stated.get(name);
  const count = wanted?.said !== true ? byDefault : wanted.rows.length + (wanted.count ?? 0);
  return Array.from({ length: count }, (_, index) => (key.type.kind === 'bigint' ? String(index + 1) : index + 1));
}

export function plannedNamedKey(
  model: Model,
  stated: ReadonlyMap<string, StatedSamples>,
  name: string,
  row: string,
  byDefault: number,
): Wire | undefined {
  const index = stated.get(name)?.rows.findIndex((candidate) => candidate.name === row) ?? -1;
  return index < 0 ? undefined : plannedRows(model, stated, name, byDefault)[index];
}
