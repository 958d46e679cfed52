import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { type Design, readDesign } from '../design/index.js';
import { makeSamples, type Samples } from './index.js';

const NOW = '2031-04-12T09:00:00.000000Z';

const TREE = `entity Hall
  id    integer key
  name  text(20)

entity Player
  id    uuid key
  name  text(20)

entity Space abstract
  id     integer key
  label  text(10)
  kinds in joined tables by sort

entity Yard is Space
  paved  boolean

entity Loft is Space marked 'l'
  height  integer

entity Paper abstract
  id  uuid key
  kinds in separate tables

entity Bill is Paper
  total  decimal(6, 2)

entity Leaf is Paper
  side  integer

entity Tag
  id    integer key
  word  text(20)

entity Remark
  id    integer key
  body  text(30)

entity Seat
  id     integer key
  chair  integer

entity Badge
  id      integer key
  colour  text(10)

relation subject
  Remark knows one Hall | Player | Space as subject
  each knows many Remark as remarks

relation noted
  Remark knows at most one Paper as noted
  Paper knows many Remark as noted_in

relation tagging
  Tag knows many Hall | Space as things
  each knows many Tag as tags

relation pals
  Player knows many Player as pals, both ways

relation following
  Hall knows many Hall as followed
  Hall knows many Hall as followers
  stored in table following (follower_id, followed_id) repeats

relation seat_player
  Seat knows one Player as player
  Player knows many Seat as seats

relation seat_hall
  Seat knows one Hall as hall
  Hall knows many Seat as seats

relation seating
  Player knows many Hall as halls
  Hall knows many Player as players
  stored in Seat (player, hall)

relation badge
  Badge knows one Hall as hall
  Hall knows at most one Badge as badge
  stored in Badge.id
`;

function made(samples: string): { design: Design; samples: Samples } {
  const design = readDesign(`${TREE}\n${samples}`);
  expect(design.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
  return { design, samples: makeSamples(design.model, NOW) };
}

const column = (samples: Samples, owner: string, name: string) =>
  samples.rows.get(owner)?.map((row) => row.get(name) ?? null) ?? [];
const pairsOf = (samples: Samples, relation: string) => samples.pairs.get(relation)?.map((row) => Object.fromEntries(row)) ?? [];

describe('sample rows of kinds', () => {
  test('are asked for by the kind, or by the base, which is then each of its kinds', () => {
    const { samples } = made('sample Space 12\n\nsample Loft 5\n');
    const [yards, lofts] = [column(samples, 'Yard', 'id'), column(samples, 'Loft', 'id')];
    expect(yards.length + lofts.length).toBe(17);
    expect(yards.length).toBeGreaterThan(2);
    expect(lofts.length).toBeGreaterThan(7);
  });

  test('never share a key, in one table, in joined ones and apart', () => {
    const { samples } = made('sample Space 12\n\nsample Paper 20\n');
    const spaces = [...column(samples, 'Yard', 'id'), ...column(samples, 'Loft', 'id')];
    const papers = [...column(samples, 'Bill', 'id'), ...column(samples, 'Leaf', 'id')];
    expect(new Set(spaces).size).toBe(spaces.length);
    expect(new Set(papers).size).toBe(20);
  });

  test('stand in the tables of their storage, with the mark that their kind has', () => {
    const { samples } = made('sample Yard 3\n\nsample Loft 2\n');
    const table = (name: string) => samples.tables.find((one) => one.table === name)?.rows ?? [];
    expect(table('spaces').map((row) => row.get('sort'))).toEqual(['yard', 'yard', 'yard', 'l', 'l']);
    expect(table('yards').map((row) => Array.from(row.keys()))).toEqual(Array.from({ length: 3 }, () => ['id', 'paved']));
    expect(table('lofts').length).toBe(2);
  });

  test('that have a name are known by it, also by the base’s', () => {
    const { samples } = made("sample Yard\n  y: label 'why', paved true\n\nsample Remark\n  a: body 'x', subject Space(y)\n");
    expect(samples.keys['Yard(y)']).toBe(samples.keys['Space(y)']);
    expect(samples.rows.get('Remark')?.[0]?.get('subject_id')).toBe(String(samples.keys['Yard(y)']));
  });
});

describe('sample rows that point at one of several', () => {
  test('point at rows of each, unless one is asked for', () => {
    const { samples } = made('sample Remark 60\n');
    expect(new Set(column(samples, 'Remark', 'subject_type'))).toEqual(new Set(['hall', 'player', 'space']));
    const { samples: halls } = made('sample Remark 20\n  subject any Hall\n');
    expect(new Set(column(halls, 'Remark', 'subject_type'))).toEqual(new Set(['hall']));
  });

  test('hold keys of several types as text, and each is that of a row', () => {
    const { samples } = made('sample Remark 60\n');
    const keys = (...owners: string[]) => new Set(owners.flatMap((owner) => column(samples, owner, 'id').map(String)));
    const known: Record<string, Set<string>> = { hall: keys('Hall'), player: keys('Player'), space: keys('Yard', 'Loft') };
    for (const row of samples.rows.get('Remark') ?? [])
      expect(known[String(row.get('subject_type'))]?.has(String(row.get('subject_id')))).toBe(true);
  });

  test('point at rows whose kinds stand apart, or at none where they may', () => {
    const { samples } = made('sample Paper 6\n\nsample Remark 40\n  noted any Paper, or null 50%\n');
    const noted = column(samples, 'Remark', 'noted_id');
    const papers = [...column(samples, 'Bill', 'id'), ...column(samples, 'Leaf', 'id')];
    expect(noted.filter((key) => key === null).length).toBeGreaterThan(5);
    expect(noted.filter((key) => key !== null && !papers.includes(key))).toEqual([]);
  });
});

describe('sample pairs', () => {
  test('known both ways stand once, the lesser key first, and never with oneself', () => {
    const { samples } = made('sample Player 12\n  pals 2 to 4 each\n');
    const pairs = pairsOf(samples, 'pals').map(({ player_id, pal_id }) => [String(player_id), String(pal_id)] as const);
    expect(pairs.length).toBeGreaterThan(10);
    expect(pairs.every(([one, other]) => one < other)).toBe(true);
    expect(new Set(pairs.map((pair) => pair.join())).size).toBe(pairs.length);
  });

  test('that may repeat are left to the engine to number, and lead to rows', () => {
    const { samples } = made('sample Hall 3\n');
    const pairs = pairsOf(samples, 'following');
    const halls = column(samples, 'Hall', 'id');
    expect(pairs.length).toBeGreaterThan(0);
    for (const pair of pairs) {
      expect(Object.keys(pair).sort()).toEqual(['followed_id', 'follower_id']);
      expect(halls).toEqual(expect.arrayContaining([pair.followed_id, pair.follower_id]));
    }
  });

  test('with one of several name its entity, each pair once', () => {
    const { samples } = made('sample Tag 6\n  things 2 to 3 each\n');
    const pairs = pairsOf(samples, 'tagging');
    expect(new Set(pairs.map(({ thing_type }) => thing_type))).toEqual(new Set(['hall', 'space']));
    expect(new Set(pairs.map((pair) => JSON.stringify(pair))).size).toBe(pairs.length);
  });

  test('that an entity holds stand once, too', () => {
    const { samples } = made('sample Player 4\n\nsample Hall 5\n\nsample Seat 12\n');
    const pairs = (samples.rows.get('Seat') ?? []).map((row) => `${String(row.get('player_id'))} ${String(row.get('hall_id'))}`);
    expect(pairs.length).toBe(12);
    expect(new Set(pairs).size).toBe(12);
  });
});

test('a key that is another’s is that of a row, each taken once; more rows than there are to share with are told', () => {
  const { samples } = made('sample Hall 6\n\nsample Badge 6\n');
  expect(new Set(column(samples, 'Badge', 'id'))).toEqual(new Set(column(samples, 'Hall', 'id')));
  const { samples: short } = made('sample Hall 3\n\nsample Badge 5\n');
  expect(column(short, 'Badge', 'id').length).toBe(3);
  expect(short.unsatisfied).toMatchObject([{ owner: 'Badge', rows: 2 }]);
});

test('a named row points at one whose kind is made later, and that back at it', () => {
  const design = readDesign(readFileSync('tests/forms/joined.kin', 'utf8'));
  const { rows, keys } = makeSamples(design.model, NOW);
  const beneath = (entity: string, name: string) =>
    rows
      .get(entity)
      ?.find((row) => row.get('id') === keys[`${entity}(${name})`])
      ?.get('beneath_id');
  expect(beneath('Pipe', 'long')).toBe(keys['Kettle(warm)']);
  expect(beneath('Kettle', 'warm')).toBe(keys['Pipe(long)']);
  expect(beneath('Pipe', 'short')).toBe(keys['Thing(low)']);
});
