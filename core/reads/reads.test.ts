import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import type { Query } from '../model/index.js';
import { heldAgainst, loadLines, withLines, withLoaded } from './index.js';

const design = readDesign(readFileSync('demo/library.kin', 'utf8'));

function query(text: string): Query {
  const { query: found, findings } = design.queryOf(text);
  if (found === null) throw new Error(findings.map(({ message }) => message).join('\n'));
  return found;
}

const held = (text: string) => heldAgainst(query(text));

describe('what a page reads', () => {
  test('is asked for once for each row where it is not loaded, with all that is read behind it', () => {
    const found = held('from Loan\nload borrower\nreads borrower.branch.name, instrument.name, due_on');
    expect(found.unloaded).toEqual([
      { path: 'instrument', fields: ['name'] },
      { path: 'borrower.branch', fields: ['name'] },
    ]);
    expect(loadLines(found)).toEqual(['load instrument (name)', 'load borrower.branch (name)']);
  });

  test('is loaded on one line, where a longer path brings what is before it', () => {
    expect(loadLines(held('from Loan\nreads instrument.maker.name'))).toEqual(['load instrument.maker (name)']);
    expect(loadLines(held('from Loan\nreads instrument.name, instrument.maker.name'))).toEqual([
      'load instrument (name)',
      'load instrument.maker (name)',
    ]);
  });

  test('is more than is named, where a derived field walks relations', () => {
    const text = `entity Branch\n  id  integer key\n\nentity Player\n  id  integer key\n  home = branch.id\n\nrelation r\n  Player knows one Branch as branch\n  Branch knows many Player as players\n`;
    const own = readDesign(text).queryOf('from Player\nreads home').query;
    expect(own && heldAgainst(own).unloaded.map(({ path }) => path)).toEqual(['branch']);
  });

  test('over a role to several entities is read of those that have it', () => {
    const found = held('from Remark\nreads subject.seats');
    expect(found.unloaded.map(({ path }) => path)).toEqual(['subject']);
    expect(query('from Remark\nreads subject.seats').reads.map(({ steps }) => steps[0]?.role.target)).toEqual(['Hall']);
  });

  test('is a path of names that are there', () => {
    const told = (text: string) =>
      design
        .queryOf(text)
        .findings.map(({ message }) => message)
        .join('\n');
    expect(told('from Loan\nreads borrower[steward].name')).toContain('a path of names');
    expect(told('from Loan\nreads borrower.shoe')).toContain('Player has no field or role called shoe');
    expect(told('from Loan\nreads due_on.year')).toContain('nothing stands behind it');
  });
});

describe('what is loaded', () => {
  test('and never read is told once, by the outermost load', () => {
    expect(held('from Loan\nload borrower\n  branch\nload instrument\nreads instrument').unread).toEqual(['borrower']);
    expect(held('from Loan\nload borrower\n  branch\nreads borrower.name').unread).toEqual(['borrower.branch']);
  });

  test('whole, where a few fields are read, could be less', () => {
    expect(held('from Loan\nload borrower\nreads borrower.name').wide).toEqual([{ path: 'borrower', fields: ['name'] }]);
    expect(held('from Loan\nload borrower (name)\nreads borrower.name').wide).toEqual([]);
    expect(held('from Loan\nload borrower\nreads borrower').wide).toEqual([]);
  });

  test('with what is read, is all that is read', () => {
    const asked = query('from Loan\nload borrower (name)\nreads borrower.branch.name, instrument.maker');
    const all = withLoaded(asked, 'batch');
    expect(heldAgainst(all).unloaded).toEqual([]);
    expect(all.loads.map(({ role, by }) => [role.name, by])).toEqual([
      ['borrower', null],
      ['instrument', 'batch'],
    ]);
    expect(asked.loads).toHaveLength(1);
  });
});

test('lines are put below the last load, or below what the rows are', () => {
  expect(withLines('from Loan\nload borrower\n  branch\norder by due_on', ['load instrument'])).toBe(
    'from Loan\nload borrower\n  branch\nload instrument\norder by due_on',
  );
  expect(withLines('from Loan; where overdue; limit 5', ['load borrower (name)'])).toBe(
    'from Loan\nwhere overdue\nload borrower (name)\nlimit 5',
  );
});
