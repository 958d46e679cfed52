import { readFileSync } from 'node:fs';
import { beforeAll, describe, expect, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { compareKinds, type KindsWay } from './index.js';

const way = (ways: readonly KindsWay[], storage: KindsWay['storage']) => {
  const found = ways.find((one) => one.storage === storage);
  if (found === undefined) throw new Error(`nothing is said of ${storage}`);
  return found;
};

describe('the ways to store the kinds of the demo’s instruments', () => {
  let ways: readonly KindsWay[] = [];
  beforeAll(async () => {
    ways = await compareKinds(readDesign(readFileSync('demo/library.kin', 'utf8')), 'Instrument');
  });

  test('are all made, and the one of the text is told', () => {
    expect(ways.map(({ storage, problem, chosen }) => [storage, problem, chosen])).toEqual([
      ['single table', null, true],
      ['joined tables', null, false],
      ['separate tables', null, false],
      ['json', null, false],
    ]);
    expect(ways.map(({ tables }) => tables)).toEqual([1, 3, 2, 1]);
  });

  test('answer the same questions with as many rows, each in one statement', () => {
    for (const { asks } of ways)
      expect(asks.map(({ what, rows, statements }) => [what, rows, statements])).toEqual([
        ['all Instrument rows', 330, 1],
        ['StringInstrument rows alone', 245, 1],
        ['one Instrument by its key', 1, 1],
      ]);
  });

  test('join and read what each has to', () => {
    const joins = (storage: KindsWay['storage']) => way(ways, storage).asks.map((ask) => [ask.joins, ask.tables]);
    expect(joins('single table')).toEqual([
      [0, 1],
      [0, 1],
      [0, 1],
    ]);
    expect(joins('joined tables')).toEqual([
      [2, 3],
      [1, 2],
      [2, 3],
    ]);
    expect(joins('separate tables')).toEqual([
      [0, 2],
      [0, 1],
      [0, 2],
    ]);
    expect(joins('json')).toEqual(joins('single table'));
  });

  test('leave cells empty in one table more than in several, and lose different rules', () => {
    expect(way(ways, 'single table').emptyShare).toBeGreaterThan(way(ways, 'separate tables').emptyShare);
    expect(way(ways, 'single table').columns).toBeLessThan(way(ways, 'joined tables').columns);
    expect(way(ways, 'separate tables').needs).toMatch(/key becomes a uuid/);
    expect(way(ways, 'joined tables').lost).toEqual([]);
    expect(way(ways, 'json').lost.length).toBeGreaterThan(way(ways, 'joined tables').lost.length);
    expect(ways.every(({ bytes }) => bytes > 4096)).toBe(true);
  });
});

test('a key of several parts is asked for by all of them', async () => {
  const text = `entity Space abstract
  site    text(20)
  number  integer
  key (site, number)
  kinds in single table by sort

entity Hall is Space
  seats  integer

entity Yard is Space
  paved  boolean

sample Hall 8

sample Yard 5
`;
  const ways = await compareKinds(readDesign(text), 'Space');
  for (const { storage, asks } of ways)
    expect(asks.at(-1), storage).toMatchObject({ what: 'one Space by its key', rows: 1, statements: 1 });
});

test('a way that cannot be made says why, and the others are measured', async () => {
  const text = `entity Space abstract
  id  integer key
  kinds in single table by sort

entity Hall is Space
  sort_of  integer

entity Yard is Space
  kind_more  boolean

entity Room in halls
  id  integer key

sample Hall 8
`;
  const ways = await compareKinds(readDesign(text), 'Space');
  expect(way(ways, 'single table').asks.length).toBe(3);
  expect(way(ways, 'joined tables')).toMatchObject({ problem: expect.stringContaining('both stored in table halls'), asks: [] });
});
