import { type Entity, entityOf, type Model, type PivotEnd, type PivotRelation, type SampleGenerator } from '../model/index.js';
import { splitKey, type Wire } from '../values/index.js';
import { settable, TableRules } from './entity-rows.js';
import { type Computed, compare } from './evaluate.js';
import type { MadeRow, Shortfalls } from './made.js';
import { chanceFor } from './random.js';
import { makeValue } from './values.js';

const MOST_TRIES = 60;
/** How many partners a row gets over a pivot where no sample line says. */
const LINKS_BY_DEFAULT = { least: 0, most: 3 };

/** How many rows of the far side each row of the near side is linked to. */
interface Spread {
  readonly near: 0 | 1;
  readonly least: number;
  readonly most: number;
}

/** Makes the rows of a pivot: pairs of rows that were made, with the pivot's own fields. */
export function makePivotRows(
  model: Model,
  relation: PivotRelation,
  now: string,
  keysOf: (entity: string) => readonly Wire[],
  generatorsOf: (entity: Entity) => ReadonlyMap<string, SampleGenerator>,
  shortfalls: Shortfalls,
): MadeRow[] {
  const [, second] = relation.ends;
  const columns = relation.ends.flatMap((end) => end.columns.map((column) => column.value));
  const extra = relation.repeats ? [] : [{ columns: Array.from(new Set(columns)), name: 'the pair stands once' }];
  const table = new TableRules(relation.name, relation.fields, relation.uniques, relation.checks, extra, now);
  const spread = spreadOf(model, relation, generatorsOf);
  const nearEnd = relation.ends[spread.near];
  const farEnd = relation.ends[1 - spread.near] ?? second;
  const nearKeys = keysOf(nearEnd.entity);
  const farKeys = keysOf(farEnd.entity);
  const rows: MadeRow[] = [];
  for (const [index, near] of nearKeys.entries()) {
    const many = Math.min(farKeys.length, chanceFor(relation.name, 'count', index).between(spread.least, spread.most));
    for (let link = 0; link < many; link++) {
      const made = makePair(relation, table, {
        near,
        farKeys,
        set: (values, nearKey, farKey) => {
          setEnd(model, nearEnd, nearKey, values);
          setEnd(model, farEnd, farKey, values);
        },
        fits: (farKey) => agree(model, nearEnd, near, farEnd, farKey),
        index,
        link,
        now,
      });
      if (made === null) continue;
      if (typeof made === 'string') {
        shortfalls.add(relation.name, made);
        continue;
      }
      table.uniques.add(made);
      rows.push(made);
    }
  }
  return rows;
}

function spreadOf(
  model: Model,
  relation: PivotRelation,
  generatorsOf: (entity: Entity) => ReadonlyMap<string, SampleGenerator>,
): Spread {
  for (const near of [0, 1] as const) {
    const end = relation.ends[near];
    if (end.role === null) continue;
    const stated = generatorsOf(entityOf(model, end.entity)).get(end.role)?.generator;
    if (stated?.kind === 'each') return { near, least: stated.least, most: stated.most };
  }
  return { near: 0, ...LINKS_BY_DEFAULT };
}

function setEnd(model: Model, end: PivotEnd, key: Wire, values: Map<string, Wire>): void {
  const parts = splitKey(entityOf(model, end.entity).key.type, key);
  for (const [index, { value: column }] of end.columns.entries()) values.set(column, parts[index] ?? null);
}

function agree(model: Model, near: PivotEnd, nearKey: Wire, far: PivotEnd, farKey: Wire): boolean {
  const values = new Map<string, Wire>();
  setEnd(model, near, nearKey, values);
  const parts = splitKey(entityOf(model, far.entity).key.type, farKey);
  return far.columns.every(({ value }, index) => !values.has(value) || values.get(value) === parts[index]);
}

interface Pair {
  readonly near: Wire;
  readonly farKeys: readonly Wire[];
  readonly set: (values: Map<string, Wire>, near: Wire, far: Wire) => void;
  /** Do the two keys agree in the columns that they share? */
  readonly fits: (far: Wire) => boolean;
  readonly index: number;
  readonly link: number;
  readonly now: string;
}

/** One pair that holds to every rule; the rule's name where none was found; null where all partners are taken. */
function makePair(relation: PivotRelation, table: TableRules, pair: Pair): Map<string, Wire> | string | null {
  let reason: string | null = null;
  for (let attempt = 0; attempt < MOST_TRIES; attempt++) {
    const chance = chanceFor(relation.name, pair.index, pair.link, attempt);
    const far = chance.pick(pair.farKeys) ?? null;
    if (!pair.fits(far)) continue;
    const values = new Map<string, Wire>();
    if (relation.form === 'symmetric') {
      if (far === pair.near) continue;
      // Each pair is kept once, the lesser key first.
      if (compare(pair.near as Computed, far as Computed) > 0) pair.set(values, far, pair.near);
      else pair.set(values, pair.near, far);
    } else pair.set(values, pair.near, far);
    for (const field of settable(relation.fields)) {
      values.set(
        field.column.value,
        makeValue(field, {
          chance: chanceFor(relation.name, field.name, pair.index, pair.link, attempt),
          now: pair.now,
          hints: table.hints.get(field.name),
          generator: undefined,
          row: pair.index * 100 + pair.link,
        }),
      );
    }
    const broken = table.broken(values);
    if (broken === null) return values;
    reason = broken.name;
  }
  return reason === null || reason === 'the pair stands once' ? null : reason;
}
