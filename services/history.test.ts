import { describe, expect, test } from 'vitest';
import { HISTORY_COLUMNS } from '../core/changes/index.js';
import { readDesign } from '../core/design/index.js';
import { wordsForHistory, wordsFromHistory } from './history-words.js';
import type { PlannedDatabase } from './plan-database.js';
import { readHistory } from './read-history.js';

const TEXT = `tree 'Stock'

entity Instrument in instruments
  id     integer key
  grams  integer optional
  check weighed: grams is null or grams > 0
`;

/** The schema of a text as a history has it. */
const schemaOf = (text: string) => JSON.parse(JSON.stringify(readDesign(text).schema)) as PlannedDatabase['wished'];
const [wished, other] = [schemaOf(TEXT), schemaOf(TEXT.replaceAll('grams > 0', 'grams > 7'))];

const NOTED = { changes: [], before: wished, after: wished, renames: [], asides: [], undoes: null };

/** A row of the table of changes, as an engine gives it. */
function noted(changed: Readonly<Record<string, unknown>> = {}, plan: unknown = NOTED): readonly unknown[] {
  const row: Readonly<Record<string, unknown>> = {
    number: 1,
    name: 'weights',
    applied_at: '2031-04-12T09:00:00.000000Z',
    milliseconds: 12,
    rows_written: '40',
    state: 'applied',
    text_before: null,
    text_after: TEXT,
    plan: JSON.stringify(plan),
    ...changed,
  };
  return HISTORY_COLUMNS.map((name) => row[name]);
}

describe('the history of a database', () => {
  test('is read as it was noted, whichever engine gives its numbers as text', () => {
    expect(readHistory([noted()], 'sqlite')).toMatchObject({ ok: true, value: [{ number: 1, rows: 40, byHand: [] }] });
  });

  test.each([
    ['a plan that is no JSON', { plan: 'grams' }, undefined, 'at plan: '],
    ['a state that there is not', { state: 'halfway' }, undefined, 'at state: '],
    [
      'a table that lacks its columns',
      {},
      { ...NOTED, after: { ...wished, tables: [{ name: 'x' }] } },
      'at plan.after.tables.0.',
    ],
    ['a number that is none', { number: 'one' }, undefined, 'Number one of the history'],
  ])('is refused whole where an entry is %s, with the place', (_, changed, plan, place) => {
    const read = readHistory([noted(), noted(changed, plan)], 'sqlite');
    expect(read.ok ? '' : read.problem.message).toContain(place);
  });

  test('is refused where a check says more than it seems to', () => {
    const [table] = wished.tables;
    const checks = [{ name: 'weighed', expression: '1); drop table instruments; --' }];
    const after = { ...wished, tables: [{ ...table, checks }] };
    const read = readHistory([noted({}, { ...NOTED, after })], 'sqlite');
    expect(read.ok ? '' : read.problem.message).toContain('drop table instruments; --” stands there as an expression');
  });
});

describe('the words of a history', () => {
  const planned = (seen: PlannedDatabase['wished']) => ({ seen, wished, undoes: null }) as PlannedDatabase;

  test('that a person agrees to with a plan are those that it makes, and none that stood in the database before', () => {
    const agreed = wordsForHistory(planned(other)).join('\n');
    expect(agreed).toContain('grams > 0');
    expect(agreed).not.toContain('grams > 7');
  });

  test('that a person looks at before they are run are those that are not in the database as it is', () => {
    expect(wordsFromHistory(planned(wished), null, 'sqlite')).toEqual([]);
    expect(wordsFromHistory(planned(other), null, 'sqlite')).toEqual([expect.stringContaining('grams > 0')]);
  });
});
