import { expect, test } from 'vitest';
import { Waiting } from './waiting.js';

test('a database that was brought in again is its own tree’s alone', () => {
  const pending = new Waiting<{ readonly tree: string; readonly database: string }>();
  const { id } = pending.add({ tree: 'library', database: 'a.db' });
  expect(pending.of('apiary', id)).toBeNull();
  expect(pending.of('library', id)).toEqual({ tree: 'library', database: 'a.db' });
  pending.remove(id);
  expect(pending.of('library', id)).toBeNull();
});

test('of too many that wait the oldest is dropped, and its file is given back to be removed', () => {
  const pending = new Waiting<{ readonly tree: string; readonly database: string }>();
  const added = Array.from({ length: 21 }, (_, index) => pending.add({ tree: 'library', database: `${index}.db` }));
  expect(added.flatMap(({ dropped }) => dropped.map(({ database }) => database))).toEqual(['0.db']);
  expect(added.map(({ id }) => pending.of('library', id)?.database ?? null).slice(0, 2)).toEqual([null, '1.db']);
});
