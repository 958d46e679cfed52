import { describe, expect, test } from 'vitest';
import { parse } from '../notation/index.js';
import { entityOf, type PolymorphicPivotRelation, type PolymorphicRelation, resolve } from './index.js';

const BASE = `entity Remark
  id  integer key

entity Player
  id  integer key

entity Hall
  id  integer key

entity Ensemble
  id  uuid key

entity Seat
  key (row, number)
  row     integer
  number  integer

entity Instrument
  id  integer key
  kinds in single table by kind

entity Harp is Instrument
  pedals  integer

entity Paper abstract
  id  uuid key
  kinds in separate tables

entity Contract is Paper
  pages  integer

entity Receipt is Paper
  total  integer

`;

const read = (lines: string) => resolve(parse(`${BASE}relation about\n${lines.replace(/^/gm, '  ')}\n`));

function relationOf(lines: string): PolymorphicRelation | PolymorphicPivotRelation {
  const { model, findings } = read(lines);
  expect(findings.filter(({ weight }) => weight === 'error').map(({ message }) => message)).toEqual([]);
  const relation = model.relations.get('about');
  if (relation?.kind !== 'polymorphic' && relation?.kind !== 'polymorphic pivot') throw new Error('is not polymorphic');
  return relation;
}

describe('a relation to several entities', () => {
  test('is by type and id unless it says otherwise, named after its role', () => {
    expect(relationOf('Remark knows one Player | Hall as subject').storage).toMatchObject({
      kind: 'type and id',
      type: { value: 'subject_type', origin: { kind: 'convention' } },
      id: { value: 'subject_id', origin: { kind: 'convention' } },
      idType: { kind: 'integer' },
      triggers: true,
    });
  });

  test('holds keys of several types as text', () => {
    expect(relationOf('Remark knows one Player | Ensemble as subject').storage).toMatchObject({
      idType: { kind: 'text' },
    });
  });

  test('stores the name of each entity in snake_case, or what the text says', () => {
    const { targets } = relationOf(
      "Remark knows one Player | Harp as subject\nstored in Remark.what with Remark.which\n  Player marked 'p'",
    );
    expect(targets.map(({ entity, marks, stated }) => [entity, marks.map(({ mark }) => mark), stated])).toEqual([
      ['Player', ['p'], true],
      ['Harp', ['harp'], false],
    ]);
  });

  test('stores the entity as it is listed, whatever kind a row is; but with separate tables the kind', () => {
    const { targets } = relationOf('Remark knows one Instrument | Paper as subject\nstored in Remark.t with Remark.i');
    expect(targets.map(({ marks }) => marks)).toEqual([
      [{ entity: 'Instrument', mark: 'instrument' }],
      [
        { entity: 'Contract', mark: 'contract' },
        { entity: 'Receipt', mark: 'receipt' },
      ],
    ]);
  });

  test('gives one role with a branch for each, and with “each” a role to all of them back', () => {
    const { model } = read('Remark knows one Player | Hall as subject\neach knows many Remark as remarks');
    const [role] = entityOf(model, 'Remark').polymorphic;
    expect(role?.branches.map(({ target }) => target)).toEqual(['Player', 'Hall']);
    expect(role?.branches.map(({ way }) => (way.kind === 'key' ? way.mark?.values : null))).toEqual([['player'], ['hall']]);
    for (const name of ['Player', 'Hall'])
      expect(entityOf(model, name).roles.map((back) => [back.name, back.target, back.knows])).toEqual([
        ['remarks', 'Remark', 'many'],
      ]);
    expect(entityOf(model, 'Remark').roles).toEqual([]);
  });

  test('may be said back one by one, or of some alone', () => {
    const { model, findings } = read(
      'Remark knows at most one Player | Hall | Ensemble as subject\nPlayer knows many Remark as remarks_on\nstored in Remark.t with Remark.i',
    );
    expect(findings).toEqual([]);
    expect(entityOf(model, 'Player').roles.map(({ name }) => name)).toEqual(['remarks_on']);
    expect(entityOf(model, 'Hall').roles).toEqual([]);
  });

  test('may have a key column for each, in their order', () => {
    const relation = relationOf('Remark knows one Player | Ensemble as subject\nstored in one of Remark.player_id, Remark.band');
    expect(relation.storage).toMatchObject({
      kind: 'one of',
      columns: [{ value: 'player_id' }, { value: 'band' }],
    });
  });

  test('to many is a pivot with a key, a type and an id', () => {
    const relation = relationOf(
      'Remark knows many Player | Hall as subjects\neach knows many Remark as remarks\nstored in table remarked (remark_id, thing_type with thing_id)',
    );
    expect(relation).toMatchObject({
      kind: 'polymorphic pivot',
      form: 'polymorphic many-to-many',
      near: { entity: 'Remark', columns: [{ value: 'remark_id' }], role: 'subjects' },
      storage: { type: { value: 'thing_type' }, id: { value: 'thing_id' } },
    });
  });

  test('restricts by default where one is known, and empties where at most one is', () => {
    expect(relationOf('Remark knows one Player | Hall as subject').onDelete.value).toBe('restrict');
    expect(relationOf('Remark knows at most one Player | Hall as subject').onDelete.value).toBe('set null');
    expect(relationOf('Remark knows many Player | Hall as subjects\nstored in table t').onDelete.value).toBe('cascade');
  });

  test.each([
    ['Remark knows one Player | Plyer as subject', 'Player'],
    ['Remark knows one Player | Player as subject', 'names Player twice'],
    ['Remark knows one Player | Seat as subject', 'Seat'],
    ['Remark knows one Instrument | Harp as subject', 'Harp'],
    ['Remark knows one Player | Hall as subject\nEnsemble knows many Remark as remarks', 'Remark does not know Ensemble here'],
    ['Remark knows one Player | Hall as subject\nstored in one of Remark.player_id', 'in this order; here are 1'],
    ['Remark knows one Player | Hall as subject\non delete set null', 'set null'],
    ['Remark knows one Player | Hall as subject\nstored in Player.t with Player.i', 'so both columns stand in Remark'],
    [
      "Remark knows one Player | Hall as subject\nstored in Remark.t with Remark.i\n  Player marked 'x'\n  Hall marked 'x'",
      "'x'",
    ],
    ["Remark knows one Player | Hall as subject\nstored in Remark.t with Remark.i\n  Seat marked 'x'", 'Seat'],
    ['Remark | Seat knows one Player | Hall as subject', 'several on both sides'],
  ])('what is wrong with it is told, with the place: %s', (lines, part) => {
    const { findings } = read(lines);
    const found = findings.find(({ message }) => message.includes(part));
    expect(found?.message ?? findings.map(({ message }) => message).join('\n')).toContain(part);
    expect(found?.span.start ?? 0).toBeGreaterThanOrEqual(BASE.length);
  });
});

test('what is wrong with a load for each entity that it leads to is told once', () => {
  const text = `entity Hall\n  id integer key\n\nentity Player\n  id integer key\n\nentity Remark\n  id integer key\n
relation subject\n  Remark knows one Hall | Player as subject\n  each knows many Remark as remarks\n
query q\n  from Remark\n  load subject\n    remarks\n      author\n`;
  expect(resolve(parse(text)).findings.map(({ message }) => message)).toEqual(['There is no role of Remark called author.']);
});

describe('a condition over a role to several entities', () => {
  const conditionOf = (where: string) =>
    resolve(
      parse(
        `${BASE}relation about\n  Remark knows at most one Player | Hall | Instrument as subject\n  each knows many Remark as remarks\n\nscope s\n  Remark where ${where}\n`,
      ),
    ).findings.map(({ message }) => message);

  test.each([
    'subject is null',
    'subject is a Player',
    'subject is not an Instrument',
    'subject is a Harp',
    '(subject as Harp).pedals = 7',
    'subject = Player(1)',
    'subject in (Player(1), Hall(2))',
    'any((subject as Player).remarks)',
  ])('stands: %s', (where) => {
    expect(conditionOf(where)).toEqual([]);
  });

  test.each([
    ['subject.id = 1', 'Say which is meant, as in “(subject as Player).id”'],
    ['subject is an Ensemble', 'Ensemble'],
    ["subject = Ensemble('0b0c1d2e-0000-4000-8000-00000000abc1')", 'and this is an Ensemble'],
    ['(subject as Ensemble).id is null', 'Ensemble'],
    ['subject', 'subject'],
  ])('does not stand, and says why: %s', (where, part) => {
    const [message = 'nothing was told'] = conditionOf(where);
    expect(message).toContain(part);
  });
});
