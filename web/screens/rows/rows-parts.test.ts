import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { answers } from '../../workers/answer.js';
import { columnsOf, nextOrder } from './columns.js';

const view = answers.view({ text: readFileSync('demo/library.kin', 'utf8'), dialect: null });
const entity = (name: string) => {
  const found = view.entities.find((candidate) => candidate.name === name);
  if (found === undefined) throw new Error(`no ${name}`);
  return found;
};

describe('the columns of a grid', () => {
  test('begin with the key and what a row is called, then its other fields, then its roles', () => {
    const ids = columnsOf(entity('Player'), null, view.entities).map(({ id }) => id);
    expect(ids.slice(0, 3)).toEqual(['id', 'name', 'email']);
    expect(ids.indexOf('portrait_url')).toBeLessThan(ids.indexOf('branch'));
    expect(ids.indexOf('branch')).toBeLessThan(ids.indexOf('loans'));
    expect(ids).toContain('portrait_url');
  });

  test('put a key that nobody can read behind the name', () => {
    const text = 'entity Hall\n  id uuid key\n  name text\n  shown as name\n';
    const { entities } = answers.view({ text, dialect: null });
    expect(entities.flatMap((one) => columnsOf(one, null, entities).map(({ id }) => id))).toEqual(['name', 'id']);
  });

  test('order rows by what is shown of the row that they point at', () => {
    const branch = columnsOf(entity('Player'), null, view.entities).find(({ id }) => id === 'branch');
    expect(branch).toMatchObject({ kind: 'one', order: 'branch.name' });
  });

  test('of an entity with few fields show those before the roles', () => {
    expect(columnsOf(entity('Loan'), null, view.entities).map(({ id }) => id)).toEqual([
      'id',
      'lent_on',
      'due_on',
      'returned_on',
      'borrower',
      'instrument',
    ]);
  });

  test('show the fields of the pivot that was walked over, beside the key', () => {
    const over = entity('Ensemble').ends.find(({ name }) => name === 'players');
    const ids = columnsOf(entity('Player'), over?.pivot ?? null, view.entities).map(({ id }) => id);
    expect(ids.slice(0, 3)).toEqual(['id', 'seats.chair', 'seats.since']);
  });

  test('are ordered up, down, and then as the entity has it', () => {
    expect(nextOrder('', 'due_on')).toBe('due_on');
    expect(nextOrder('due_on', 'due_on')).toBe('due_on desc');
    expect(nextOrder('due_on desc', 'due_on')).toBe('');
    expect(nextOrder('due_on desc', 'lent_on')).toBe('lent_on');
  });
});
