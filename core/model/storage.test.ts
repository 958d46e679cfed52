import { expect, test } from 'vitest';
import { parse } from '../notation/index.js';
import { holdingsOf, keyColumnsOf, resolve, storedColumnsOf, storedPlace, storedTypes } from './index.js';

const ENTITIES = `entity Player
  id  integer key

entity Loan
  id  bigint key

entity Ensemble
  id  uuid key

entity Shelf
  town  text(20)
  code  integer
  key (town, code)

entity Remark
  id  integer key

relation r
`;

/** Where a relation of these sentences is stored, and what that comes to. */
function stored(sentences: string) {
  const { model, relation } = read(sentences);
  const { holder, pairs, keys } = holdingsOf(relation);
  return {
    holder,
    pairs: pairs?.name ?? null,
    keys: keys.map(({ target, columns, mark, once }) => ({
      target,
      columns: columns.map(({ value }) => value),
      marks: mark?.marks ?? null,
      once,
    })),
    types: keys.map((key) => storedTypes(model, key).map(({ kind }) => kind)),
    groups: keyColumnsOf(relation),
    columns: storedColumnsOf(relation).map(({ value }) => value),
  };
}

/** The relation of these sentences, in its model. */
function read(sentences: string) {
  const { model, findings } = resolve(parse(`${ENTITIES}${sentences.replace(/^/gm, '  ')}\n`));
  expect(findings.filter(({ weight }) => weight === 'error').map(({ message }) => message)).toEqual([]);
  const relation = model.relations.get('r');
  if (relation === undefined) throw new Error('there is no such relation');
  return { model, relation };
}

test('a key stands with the rows that know one, in a column for each of its parts', () => {
  expect(stored('Loan knows one Shelf as shelf\nShelf knows many Loan as loans')).toEqual({
    holder: 'Loan',
    pairs: null,
    keys: [{ target: 'Shelf', columns: ['shelf_town', 'shelf_code'], marks: null, once: false }],
    types: [['text', 'integer']],
    groups: [['shelf_town', 'shelf_code']],
    columns: ['shelf_town', 'shelf_code'],
  });
});

test('of a one-to-one no two rows hold the same key', () => {
  const { keys } = stored('Loan knows one Player as borrower\nPlayer knows at most one Loan as loan');
  expect(keys).toEqual([{ target: 'Player', columns: ['borrower_id'], marks: null, once: true }]);
});

test('pairs hold the keys of both sides in a table that no entity has', () => {
  expect(
    stored(
      'Player knows many Ensemble as bands\nEnsemble knows many Player as members\nstored in table seats (player_id, band_id)',
    ),
  ).toMatchObject({
    holder: null,
    pairs: 'seats',
    keys: [
      { target: 'Player', columns: ['player_id'] },
      { target: 'Ensemble', columns: ['band_id'] },
    ],
    types: [['integer'], ['uuid']],
    groups: [['player_id'], ['band_id']],
  });
});

test('pairs of an entity with itself hold its key twice', () => {
  const { keys, groups } = stored('Player knows many Player as partners, both ways');
  expect(keys.map(({ target }) => target)).toEqual(['Player', 'Player']);
  expect(groups).toHaveLength(2);
});

test('by type and id one column holds the keys of all targets, as the type that takes them, and a mark says whose each is', () => {
  expect(
    stored("Remark knows one Player | Ensemble as subject\nstored in Remark.what with Remark.which\n  Player marked 'p'"),
  ).toEqual({
    holder: 'Remark',
    pairs: null,
    keys: [
      { target: 'Player', columns: ['which'], marks: ['p'], once: false },
      { target: 'Ensemble', columns: ['which'], marks: ['ensemble'], once: false },
    ],
    types: [['text'], ['text']],
    groups: [['which']],
    columns: ['what', 'which'],
  });
});

test('in one of several columns each target has its own, of its own type, and no mark', () => {
  expect(
    stored('Remark knows one Player | Ensemble as subject\nstored in one of Remark.player_id, Remark.ensemble_id'),
  ).toMatchObject({
    keys: [
      { target: 'Player', columns: ['player_id'], marks: null },
      { target: 'Ensemble', columns: ['ensemble_id'], marks: null },
    ],
    types: [['integer'], ['uuid']],
    groups: [['player_id'], ['ensemble_id']],
    columns: ['player_id', 'ensemble_id'],
  });
});

test('pairs with several entities hold the near key, and the far one behind its mark', () => {
  expect(
    stored('Remark knows many Player | Loan as subjects\nstored in table remarked (remark_id, thing_type with thing_id)'),
  ).toMatchObject({
    holder: null,
    pairs: 'remarked',
    keys: [
      { target: 'Remark', columns: ['remark_id'], marks: null },
      { target: 'Player', columns: ['thing_id'] },
      { target: 'Loan', columns: ['thing_id'] },
    ],
    groups: [['remark_id'], ['thing_id']],
    columns: ['remark_id', 'thing_type', 'thing_id'],
  });
});

test.each([
  ['a key', 'Loan knows one Player as borrower\nPlayer knows many Loan as loans', 'Loan.borrower_id'],
  ['a key of several columns', 'Loan knows one Shelf as shelf\nShelf knows many Loan as loans', 'Loan.(shelf_town, shelf_code)'],
  [
    'pairs',
    'Ensemble knows many Shelf as shelves\nShelf knows many Ensemble as ensembles',
    'table r (ensemble_id, (shelf_town, shelf_code))',
  ],
  [
    'type and id',
    'Remark knows one Player | Loan as subject\neach knows many Remark as remarks',
    'Remark.subject_type with Remark.subject_id',
  ],
])('the place of %s, written behind “stored in”, is where it was stored without it', (_what, sentences, place) => {
  expect(storedPlace(read(sentences).relation)?.text).toBe(place);
  expect(stored(`${sentences}\nstored in ${place}`)).toEqual(stored(sentences));
});

test('a key for each of several has no place of one name', () => {
  const sentences = 'Remark knows one Player | Loan as subject\neach knows many Remark as remarks\n';
  expect(storedPlace(read(`${sentences}stored in one of Remark.player_id, Remark.loan_id`).relation)).toBeNull();
});
