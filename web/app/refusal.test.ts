import { expect, test } from 'vitest';
import { partsOf } from './refusal.js';

test('a text is taken apart at the rows that it names, and loses nothing', () => {
  const text = 'Somebody has this address already. It is Player(3). What keeps it: Player.email is unique (see Card(a-1)).';
  const parts = partsOf(text);
  expect(parts.map((part) => part.text).join('')).toBe(text);
  expect(parts.flatMap(({ row }) => row ?? [])).toEqual([
    { entity: 'Player', key: '3' },
    { entity: 'Card', key: 'a-1' },
  ]);
  expect(partsOf('nothing here (at all)')).toEqual([{ at: 0, text: 'nothing here (at all)', row: null }]);
  expect(partsOf('')).toEqual([]);
});
