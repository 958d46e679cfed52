import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { answers } from './answer.js';

const text = readFileSync('demo/library.kin', 'utf8');
const at = (piece: string, shift = 0) => text.indexOf(piece) + shift;

describe('what the page asks of a text', () => {
  test('every answer is plain data that can cross to the page', () => {
    const all = [
      answers.view({ text, dialect: null }),
      answers.map({ text, options: { lines: 'all', folded: ['Player'] }, kin: null }),
      answers.map({ text, options: { lines: 'keys', folded: [] }, kin: { centres: ['Loan'], opened: [], whole: [] } }),
      answers.complete({ text, offset: at('borrower.branch', 9) }),
      answers['complete query']({ text, query: 'from Loan\nwhere ', head: '', offset: 16 }),
      answers.hover({ text, offset: at('as borrower', 4) }),
      answers.name({ text, offset: at('as borrower', 4) }),
      answers.click({ text, click: { kind: 'add entity', name: 'Shelf' } }),
    ];
    for (const answer of all) expect(structuredClone(answer)).toEqual(answer);
  });

  test('a name is told with its place, its definition and its uses', () => {
    const name = answers.name({ text, offset: at('overdue and borrower') });
    expect(name?.thing).toEqual({ kind: 'scope', owner: '', name: 'overdue' });
    expect(name?.definition?.start).toBe(at('scope overdue', 6));
    expect(name?.uses.length).toBeGreaterThanOrEqual(2);
    expect(answers.name({ text, offset: at('-- What is lent') })).toBeNull();
  });

  test('a click that would break something says so, and shows what it would become', () => {
    const wrong = answers.click({ text, click: { kind: 'type', entity: 'Loan', field: 'due_on', type: 'nonsense' } });
    expect(wrong.problems.join()).toContain('nonsense');
    const right = answers.click({ text, click: { kind: 'optional', entity: 'Loan', field: 'due_on', optional: true } });
    expect(right.problems).toEqual([]);
    expect(right.sql.map(({ table, fresh }) => [table, fresh])).toEqual([['loans', false]]);
  });

  test('what was wrong before is not held against a click', () => {
    const broken = `${text}\nscope late\n  Loan where due_no < today\n`;
    expect(answers.click({ text: broken, click: { kind: 'add entity', name: 'Shelf' } }).problems).toEqual([]);
  });

  test('a query is checked for what it means, not only for how it is written', () => {
    const [finding] = answers['check query']({ text, query: 'from Loan\nload borrwer', head: '' });
    expect(finding?.message).toContain('Did you mean borrower?');
    expect(answers['check query']({ text, query: 'from Loan\nwhere due_on > :since', head: 'since date' })).toEqual([]);
  });

  test('a filter and an order are completed from their entity', () => {
    const labels = (part: 'where' | 'order by', written: string) =>
      answers['complete filter']({ text, entity: 'Loan', part, written, offset: written.length }).options.map(
        ({ label }) => label,
      );
    expect(labels('where', 'borrower.')).toContain('branch');
    expect(labels('order by', '')).toContain('due_on');
  });
});
