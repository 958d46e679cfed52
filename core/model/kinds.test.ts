import { describe, expect, test } from 'vitest';
import { parse } from '../notation/index.js';
import { entityOf, resolve } from './index.js';

const read = (text: string) => resolve(parse(text));
const told = (text: string) => read(text).findings.map(({ message }) => message);

const SPACES = `entity Space in spaces
  id     integer key
  label  text(20)
  kinds in joined tables by sort
  order by label

entity Hall is Space marked 'h'
  seats  integer

entity Studio is Space abstract
  hourly  decimal(6, 2)

entity DrumBooth is Studio
  loudest  integer
`;

describe('kinds', () => {
  test('have what their bases have, before what is their own', () => {
    const { model, findings } = read(SPACES);
    expect(findings).toEqual([]);
    const booth = entityOf(model, 'DrumBooth');
    expect(booth.fields.map(({ name, owner }) => `${owner}.${name}`)).toEqual([
      'Space.id',
      'Space.label',
      'Studio.hourly',
      'DrumBooth.loudest',
    ]);
    expect(booth.key.columns).toEqual(['id']);
    expect(booth.orderBy).toEqual(entityOf(model, 'Space').orderBy);
  });

  test('know their base, its way to store them, and every concrete one below, a concrete base first', () => {
    const { model } = read(SPACES);
    expect(entityOf(model, 'Space').kinds).toMatchObject({
      root: 'Space',
      base: null,
      abstract: false,
      storage: { kind: 'joined tables', mark: 'sort' },
      kinds: ['Hall', 'Studio'],
      concrete: [
        { entity: 'Space', mark: 'space' },
        { entity: 'Hall', mark: 'h' },
        { entity: 'DrumBooth', mark: 'drum_booth' },
      ],
    });
    expect(entityOf(model, 'Studio').kinds).toMatchObject({
      root: 'Space',
      base: 'Space',
      abstract: true,
      concrete: [{ entity: 'DrumBooth' }],
    });
  });

  test('in joined tables have tables of their own; in a single table that of the base', () => {
    const tables = (storage: string) => {
      const { model } = read(SPACES.replace('in joined tables by sort', storage));
      return ['Space', 'Hall', 'DrumBooth'].map((name) => entityOf(model, name).table.value.name);
    };
    expect(tables('in joined tables by sort')).toEqual(['spaces', 'halls', 'drum_booths']);
    expect(tables('in single table by sort')).toEqual(['spaces', 'spaces', 'spaces']);
    expect(tables('in json details by sort')).toEqual(['spaces', 'spaces', 'spaces']);
  });

  test('have the roles of their bases, each as what the base declared it', () => {
    const { model, findings } = read(`${SPACES}
entity Concert
  id  integer key

relation venue
  Concert knows one Space as space
  Space knows many Concert as concerts

relation drums
  Concert knows at most one DrumBooth as drums
  DrumBooth knows many Concert as loud_ones
`);
    expect(findings).toEqual([]);
    const roles = (name: string) => entityOf(model, name).roles.map((role) => `${role.entity}.${role.name}`);
    expect(roles('Space')).toEqual(['Space.concerts']);
    expect(roles('Hall')).toEqual(['Space.concerts']);
    expect(roles('DrumBooth')).toEqual(['Space.concerts', 'DrumBooth.loud_ones']);
  });

  test.each([
    [
      'entity Hall\n  id integer key\n\nentity Yard is Hal\n  x integer\n',
      'there is no entity Hal for it to be a kind of. Did you mean Hall?',
    ],
    [
      'entity Hall\n  id integer key\n\nentity Yard is Hall\n  x integer\n',
      'Hall has kinds, and nothing says how they are stored.',
    ],
    ['entity A is B\n  id integer key\n\nentity B is A\n  x integer\n', 'is a kind of itself, over A → B → A'],
    [`${SPACES}\nentity Yard is Space marked 'h'\n  x integer\n`, "'h'"],
    [`${SPACES}\nentity Yard is Hall\n  kinds in separate tables\n`, 'how kinds are stored is said once, by the base at the top'],
    [`${SPACES}\nentity Yard is Space\n  id integer key\n`, 'Yard'],
    [`${SPACES}\nentity Yard is Space\n  label text(9)\n`, 'label'],
    ["entity Hall marked 'h'\n  id integer key\n", 'Hall has a mark, and is no kind of anything'],
    ['entity Hall abstract\n  id integer key\n', 'Hall is abstract, so no row can be one'],
    [
      'entity Hall abstract\n  id integer key\n  kinds in single table by sort\n\nentity Yard is Hall abstract\n  x integer\n',
      'abstract',
    ],
    ['entity A\n  id integer key\n  sort text(9)\n  kinds in single table by sort\n\nentity B is A\n  x integer\n', 'sort'],
    [
      'entity A abstract\n  id integer key\n  kinds in separate tables\n\nentity B is A\n  x integer\n\nentity C is A\n  y integer\n',
      'uuid',
    ],
  ])('what is wrong with them is told: %#', (text, part) => {
    expect(told(text).join('\n')).toContain(part);
  });

  test('with nothing below them are left out, and those above them do without', () => {
    const { model, findings } = resolve(
      parse(`entity Space
  id  integer key
  kinds in joined tables by sort

entity Hall is Space
  seats  integer

entity Booth is Space abstract
  padding  text(20) optional

entity Hall is Booth
  doors  integer
`),
    );
    expect(findings.map(({ code }) => code).sort()).toEqual(['abstract-alone', 'name-clash']);
    expect(Array.from(model.entities.keys())).toEqual(['Space', 'Hall']);
    expect(entityOf(model, 'Space').kinds).toMatchObject({
      kinds: ['Hall'],
      concrete: [{ entity: 'Space' }, { entity: 'Hall' }],
    });
  });

  test('in a loop leave the rest of the text working', () => {
    const { model } = read('entity A is B\n  id integer key\n\nentity B is A\n  x integer\n\nentity C\n  id integer key\n');
    expect(Array.from(model.entities.keys())).toEqual(['C']);
  });
});

describe('a condition over kinds', () => {
  const conditionOf = (where: string) =>
    told(`${SPACES}
entity Concert
  id  integer key

relation venue
  Concert knows one Space as space
  Space knows many Concert as concerts

scope s
  Concert where ${where}
`);

  test.each([
    'space is a Hall',
    'space is not a Studio',
    '(space as Hall).seats > 10',
    '(space as DrumBooth).hourly > 10.00',
    'space is a DrumBooth and (space as DrumBooth).loudest < 90',
  ])('stands: %s', (where) => {
    expect(conditionOf(where)).toEqual([]);
  });

  test.each([
    ['space.seats > 10', 'seats'],
    ['space is a Concert', 'Concert'],
    ['(space as Concert).id = 1', 'Concert'],
    ['(space as Hal).seats = 1', 'Hall'],
    ['(space as Hall).loudest = 1', 'loudest'],
  ])('does not stand, and says why: %s', (where, part) => {
    const [message = ''] = conditionOf(where);
    expect(message).toContain(part);
  });
});
