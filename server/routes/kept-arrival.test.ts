import { expect, test } from 'vitest';
import { existingOf, readArrival } from './kept-arrival.js';

const TRIGGER = 'create trigger loan_kept before insert on loan begin select 1; end';

function kept(summary: unknown, trigger: unknown): string {
  return JSON.stringify({
    arrival: {
      source: { kind: 'upload', name: 'library.db' },
      at: '2031-04-12T09:00:00.000000Z',
      summary,
      kept: [],
      report: [],
      copied: null,
      script: null,
    },
    existing: {
      dialect: 'sqlite',
      schema: { prelude: [], tables: [{ name: { schema: null, name: 'loan' }, triggers: [trigger] }], others: [] },
      statements: [['loan', 'create table loan (id integer)']],
    },
  });
}

const NOW = kept({ was: '3 tables', became: '2 entities and 1 relation' }, { kind: 'written', name: 'loan_kept', sql: TRIGGER });

test('an arrival that an earlier version kept is read as one of now: the summary in two parts, a trigger with its name', () => {
  const earlier = readArrival(kept('3 tables: 2 entities and 1 relation', TRIGGER));
  expect(earlier).toEqual(readArrival(NOW));
  expect(earlier.arrival.summary).toEqual({ was: '3 tables', became: '2 entities and 1 relation' });
  expect(earlier.existing.schema.tables[0]?.triggers).toEqual([{ kind: 'written', name: 'loan_kept', sql: TRIGGER }]);
});

test('the statements of a kept database are found by their table again', () => {
  expect(existingOf(readArrival(NOW)).statements.get('loan')).toBe('create table loan (id integer)');
});
