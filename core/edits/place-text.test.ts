import { expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { exchangeText, type Placed, type RowName } from './index.js';

const TEXT = `tree 'Places'

entity Concert in concerts
  id  integer key

entity Piece in pieces
  id        integer key
  position  integer unique

relation setlist
  Concert knows many Piece as pieces order by setlist.position
  Piece knows many Concert as concerts
  stored in table setlist (concert_id, piece_id)
    position  integer
    words     text(40) optional
`;

const name = (entity: string, key: number): RowName => ({ entity, keyType: { kind: 'integer' }, key });
const placed = (key: number, place: number, words?: string): Placed => ({
  row: name('Piece', key),
  place,
  fields: [
    { name: 'position', entered: { kind: 'value', type: { kind: 'integer' }, text: String(place) } },
    ...(words === undefined
      ? []
      : [{ name: 'words', entered: { kind: 'value' as const, type: { kind: 'text' as const, length: 40 }, text: words } }]),
  ],
});

test('two rows exchange their places: by way of a free one where no two may have the same, and pairs with all that they hold', () => {
  const design = readDesign(TEXT);
  const own = { kind: 'row', field: 'position' } as const;
  const straight = exchangeText(own, placed(1, 4), placed(2, 5), null);
  expect(straight).toBe('update Piece(2) with position 4\nupdate Piece(1) with position 5');
  const aside = exchangeText(own, placed(1, 4), placed(2, 5), 9);
  expect(aside).toBe('update Piece(1) with position 9\nupdate Piece(2) with position 4\nupdate Piece(1) with position 5');
  const pair = { kind: 'pair', field: 'position', owner: name('Concert', 7), role: 'pieces' } as const;
  const pairs = exchangeText(pair, placed(1, 4, "it's"), placed(2, 5), null);
  expect(pairs.split('\n')).toEqual([
    'unlink Concert(7).pieces from Piece(1), Piece(2)',
    "link Concert(7).pieces to Piece(1) with position 5, words 'it''s'",
    'link Concert(7).pieces to Piece(2) with position 4',
  ]);
  for (const text of [straight, aside, pairs]) expect(design.commandsOf(text).findings).toEqual([]);
});
