import { describe, expect, test } from 'vitest';
import { type Command, matching } from './commands.js';

const command = (title: string, group: Command['group'], words = ''): Command => ({
  id: title,
  title,
  group,
  words,
  run: () => undefined,
});

const commands = [
  command('Loan', 'Entity', 'table loans'),
  command('Rows of Loan', 'Rows', 'browse data records'),
  command('Relate two entities', 'Text', 'association foreign key join'),
  command('Undo', 'Text', 'take back revert'),
  command('lending', 'Relation', 'Loan Instrument foreign key'),
];

describe('what is typed into the palette', () => {
  const found = (typed: string) => matching(commands, typed).map(({ title }) => title);

  test('finds a thing by its own name first', () => {
    expect(found('loan')).toEqual(['Loan', 'Rows of Loan', 'lending']);
  });

  test('finds an act under the trade’s other words', () => {
    expect(found('revert')).toEqual(['Undo']);
    expect(found('foreign key')).toEqual(['lending', 'Relate two entities']);
    expect(found('association')).toEqual(['Relate two entities']);
  });

  test('takes several words in any order, each of which has to fit', () => {
    expect(found('loan rows')).toEqual(['Rows of Loan']);
    expect(found('loan undo')).toEqual([]);
  });

  test('shows all where nothing is typed', () => {
    expect(found('  ').length).toBe(commands.length);
  });
});
