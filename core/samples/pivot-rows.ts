import {
  type AnyPivotRelation,
  entityOf,
  keysOfTargets,
  type Model,
  type PivotEnd,
  type PivotRelation,
  type PolymorphicPivotRelation,
  type SampleGenerator,
} from '../model/index.js';
import { splitKey, type Wire } from '../values/index.js';
import { type Parent, polymorphicCells, settable, TableRules } from './entity-rows.js';
import { type Computed, compare } from './evaluate.js';
import type { MadeRow, Shortfalls } from './made.js';
import { pivotColumns } from './placed.js';
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

/** The sources of a pivot's rows: the keys and kinds of its ends, and the generators of its fields. */
export interface PivotWish {
  readonly model: Model;
  readonly relation: AnyPivotRelation;
  readonly now: string;
  keysOf(entity: string): readonly Wire[];
  /** What kind the row of an entity is that has this key. */
  kindOf(entity: string, key: Wire): string;
  generatorsOf(entity: string): ReadonlyMap<string, SampleGenerator>;
  readonly shortfalls: Shortfalls;
}

/** Makes the rows of a pivot: pairs of rows that were made, with the pivot's own fields. */
export function makePivotRows(wish: PivotWish): MadeRow[] {
  const { model, relation, now } = wish;
  const columns = pivotColumns(model, relation)
    .map(({ name }) => name)
    .filter((name) => !relation.fields.some((field) => field.column.value === name));
  const extra = relation.repeats ? [] : [{ columns: Array.from(new Set(columns)), name: 'the pair stands once' }];
  const table = new TableRules(relation.name, relation.fields, relation.uniques, relation.checks, extra, now);
  if (relation.kind === 'pivot') return pairs(wish, relation, table);
  return typedPairs(wish, relation, table);
}

function pairs(wish: PivotWish, relation: PivotRelation, table: TableRules): MadeRow[] {
  const { model, keysOf } = wish;
  const [, second] = relation.ends;
  const spread = spreadOf(wish, relation);
  const nearEnd = relation.ends[spread.near];
  const farEnd = relation.ends[1 - spread.near] ?? second;
  return linked(wish, table, spread, keysOf(nearEnd.entity), keysOf(farEnd.entity), (near) => ({
    set: (values, nearKey, farKey) => {
      setEnd(model, nearEnd, nearKey, values);
      setEnd(model, farEnd, farKey, values);
    },
    fits: (farKey) => agree(model, nearEnd, near, farEnd, farKey),
  }));
}

/** Pairs of a key, and of type and id: each owner is linked to rows of any of the entities. */
function typedPairs(wish: PivotWish, relation: PolymorphicPivotRelation, table: TableRules): MadeRow[] {
  const { model, keysOf, kindOf, generatorsOf } = wish;
  const parents = relation.targets.flatMap(({ entity }) =>
    keysOf(entity).map((key): Parent => ({ entity: kindOf(entity, key), key })),
  );
  const stated = relation.near.role === null ? undefined : generatorsOf(relation.near.entity).get(relation.near.role)?.generator;
  const spread = stated?.kind === 'each' ? { near: 0 as const, ...stated } : { near: 0 as const, ...LINKS_BY_DEFAULT };
  const keys = keysOfTargets(relation);
  return linked(wish, table, spread, keysOf(relation.near.entity), parents, () => ({
    set: (values, near, parent) => {
      setEnd(model, relation.near, near, values);
      for (const [column, value] of polymorphicCells(model, keys, parent)) values.set(column, value);
    },
    fits: () => true,
  }));
}

function linked<Far>(
  { model, relation, now, shortfalls }: PivotWish,
  table: TableRules,
  spread: Spread,
  nearKeys: readonly Wire[],
  farKeys: readonly Far[],
  over: (near: Wire) => Pick<Pair<Far>, 'set' | 'fits'>,
): MadeRow[] {
  const rows: MadeRow[] = [];
  for (const [index, near] of nearKeys.entries()) {
    const many = Math.min(farKeys.length, chanceFor(relation.name, 'count', index).between(spread.least, spread.most));
    for (let link = 0; link < many; link++) {
      const made = makePair(relation, table, { model, near, farKeys, ...over(near), index, link, now });
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

function spreadOf({ generatorsOf }: PivotWish, relation: PivotRelation): Spread {
  for (const near of [0, 1] as const) {
    const end = relation.ends[near];
    if (end.role === null) continue;
    const stated = generatorsOf(end.entity).get(end.role)?.generator;
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

interface Pair<Far> {
  readonly model: Model;
  readonly near: Wire;
  readonly farKeys: readonly Far[];
  readonly set: (values: Map<string, Wire>, near: Wire, far: Far) => void;
  /** Do the two keys agree in the columns that they share? */
  readonly fits: (far: Far) => boolean;
  readonly index: number;
  readonly link: number;
  readonly now: string;
}

/** One pair that holds to every rule; the rule's name where none was found; null where all partners are taken. */
function makePair<Far>(relation: AnyPivotRelation, table: TableRules, pair: Pair<Far>): Map<string, Wire> | string | null {
  let reason: string | null = null;
  for (let attempt = 0; attempt < MOST_TRIES; attempt++) {
    const chance = chanceFor(relation.name, pair.index, pair.link, attempt);
    const far = chance.pick(pair.farKeys);
    if (far === undefined || !pair.fits(far)) continue;
    const values = new Map<string, Wire>();
    if (relation.form === 'symmetric') {
      if (far === pair.near) continue;
      pair.set(values, pair.near, far);
      // Each pair is kept once, the lesser key first.
      if (relation.kind === 'pivot' && standsAfter(pair.model, relation, values)) turn(relation, values);
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

/** Does the first end's key come after the second's, as the engine compares the two: part by part, numbers as numbers? */
function standsAfter(model: Model, { ends: [one, other] }: PivotRelation, values: ReadonlyMap<string, Wire>): boolean {
  const { fields } = entityOf(model, one.entity).key;
  for (const [index, { value }] of one.columns.entries()) {
    const part = (column: string): Computed => {
      const wire = values.get(column) ?? null;
      const kind = fields[index]?.type.kind;
      return kind === 'bigint' || kind === 'decimal' ? Number(wire) : (wire as Computed);
    };
    const order = compare(part(value), part(other.columns[index]?.value ?? ''));
    if (order !== 0) return order > 0;
  }
  return false;
}

/** Puts each end's key where the other's stood. */
function turn({ ends: [one, other] }: PivotRelation, values: Map<string, Wire>): void {
  for (const [index, { value }] of one.columns.entries()) {
    const opposite = other.columns[index]?.value ?? '';
    const kept = values.get(value) ?? null;
    values.set(value, values.get(opposite) ?? null);
    values.set(opposite, kept);
  }
}
