import { expect, test } from 'vitest';
import { readArrival, writeArrival } from './kept-arrival.js';

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

test('an arrival that is written is read as it was, the statement of each table with it', () => {
  const { arrival, existing } = readArrival(NOW);
  expect(existing.statements.get('loan')).toBe('create table loan (id integer)');
  expect(readArrival(writeArrival({ arrival, existing }))).toEqual({ arrival, existing });
});
