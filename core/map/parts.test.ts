import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { generationsOf } from './generations.js';
import { layoutMap, type MapLabel, type MapStem, mapOf } from './index.js';
import { makeRows } from './rows.js';

const label = (id: string, width = 100): MapLabel => ({ id, kind: 'entity', width, height: 60 });
const stem = (from: string, to: string): MapStem => ({
  id: `${from} ${to}`,
  relation: `${from} ${to}`,
  kind: 'key',
  from,
  to,
  fromEnd: 'one',
  toEnd: 'many',
  hub: false,
});

describe('generations', () => {
  const of = (ids: string, ...stems: MapStem[]) => {
    const { generation, closing } = generationsOf(
      Array.from(ids, (id) => label(id)),
      stems,
    );
    return { levels: Array.from(ids, (id) => generation.get(id)), closing: Array.from(closing) };
  };

  test('an entity stands one below the lowest of those that it needs', () => {
    expect(of('abcd', stem('a', 'b'), stem('b', 'c'), stem('a', 'c'), stem('c', 'd')).levels).toEqual([0, 1, 2, 3]);
  });

  test('one that needs nobody stands on top, one that needs itself too', () => {
    expect(of('ab', stem('a', 'a')).levels).toEqual([0, 0]);
  });

  test('a loop is cut at the key that closes it', () => {
    const { levels, closing } = of('abc', stem('a', 'b'), stem('b', 'c'), stem('c', 'a'));
    expect(levels).toEqual([0, 1, 2]);
    expect(closing).toEqual(['c a']);
  });

  test('a chain of thousands does not fall over', () => {
    const ids = Array.from({ length: 20_000 }, (_, index) => label(`n${index}`));
    const stems = ids.slice(1).map((_, index) => stem(`n${index}`, `n${index + 1}`));
    expect(generationsOf(ids, stems).generation.get('n19999')).toBe(19_999);
  });
});

describe('rows', () => {
  test('a wide generation wraps into rows of like length', () => {
    const labels = Array.from({ length: 30 }, (_, index) => label(`n${index}`));
    const rows = makeRows(labels, [], new Map(labels.map(({ id }) => [id, 0])), 1000);
    expect(rows.length).toBeGreaterThan(3);
    const lengths = rows.map((row) => row.labels.length);
    expect(Math.max(...lengths) - Math.min(...lengths)).toBeLessThanOrEqual(3);
  });

  test('related labels stand together', () => {
    const parents = ['p', 'q', 'r'].map((id) => label(id));
    const children = ['r1', 'p1', 'q1', 'r2', 'p2', 'q2'].map((id) => label(id));
    const generation = new Map([...parents.map(({ id }) => [id, 0] as const), ...children.map(({ id }) => [id, 1] as const)]);
    const stems = children.map(({ id }) => stem(id[0] ?? '', id));
    const [, below] = makeRows([...parents, ...children], stems, generation, 5000);
    const order = below?.labels.map(({ id }) => id[0]).join('') ?? '';
    expect(new Set(order.match(/(.)\1/g))).toEqual(new Set(['pp', 'qq', 'rr']));
  });
});

describe('labels and stems of a model', () => {
  const text = (relations: string) => `entity A\n  id integer key\n\nentity B\n  id integer key\n  name text(40)\n\n${relations}`;
  const of = (relations: string) => mapOf(readDesign(text(relations)).model);

  test('a key is one at its parent’s foot and many at its child’s head', () => {
    expect(of('relation r\n  A knows one B as b\n  B knows many A as as_\n').stems).toMatchObject([
      { from: 'B', to: 'A', fromEnd: 'one', toEnd: 'many' },
    ]);
  });

  test('a key that may be empty, and a one-to-one, show it', () => {
    expect(
      of('relation r\n  A knows at most one B as b\n  B knows at most one A as a\n  stored in A.b_id\n').stems,
    ).toMatchObject([{ fromEnd: 'at most one', toEnd: 'at most one' }]);
  });

  test('a pivot is a lozenge with a stem to each end', () => {
    const { labels, stems } = of('relation r\n  A knows many B as bs\n  B knows many A as as_\n');
    expect(labels.map((placed) => [placed.id, placed.kind])).toEqual([
      ['A', 'entity'],
      ['B', 'entity'],
      ['pivot r', 'pivot'],
    ]);
    expect(stems.length).toBe(2);
    expect(stems.every((one) => [one.fromEnd, one.toEnd].sort().join() === 'many,none')).toBe(true);
  });

  test('a label has its key, its key columns with where they point, and where there is room its fields', () => {
    const { entities } = of('relation r\n  A knows one B as b\n  B knows many A as as_\n');
    expect(entities[0]?.lines).toEqual([
      { text: 'id', sort: 'key', detail: 'key', relation: null },
      { text: 'b_id', sort: 'points', detail: '↑ B', relation: 'r' },
    ]);
    expect(entities[1]?.lines[1]).toMatchObject({ text: 'name', sort: 'field', detail: 'text(40)' });
  });

  test('a stem to oneself leaves and comes back at the side, each of several at its own height', () => {
    const { labels, stems } = of('relation r\n  A knows at most one A as up\n\nrelation s\n  A knows at most one A as left\n');
    const { stems: placed } = layoutMap(labels, stems);
    expect(placed.map((one) => one.points.length)).toEqual([4, 4]);
    expect(placed[0]?.points[0]?.y).not.toBe(placed[1]?.points[0]?.y);
  });

  test('nothing at all is an empty sheet', () => {
    expect(layoutMap([], [])).toMatchObject({ labels: [], stems: [] });
  });
});
