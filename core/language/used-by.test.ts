import { readFileSync } from 'node:fs';
import { expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { rename } from '../edits/index.js';
import type { NamedThing } from '../model/index.js';
import { definitionOf, hover, usedBy, usedByInWords } from './index.js';

const demo = readDesign(readFileSync('demo/library.kin', 'utf8'));

const thing = (kind: NamedThing['kind'], owner: string, name: string): NamedThing => ({ kind, owner, name });
const told = (used: NamedThing, design = demo) =>
  usedBy(design, used).map(({ by, line, through }) =>
    [by, line, ...through.map((one) => `through ${one}`)].filter(Boolean).join(' '),
  );

test('a field is used by each line that names it, and behind them by what names a derived field or a scope that does', () => {
  const uses = told(thing('field', 'Loan', 'returned_on'));
  expect(uses).toContain('sample Loan');
  expect(uses.some((use) => /^(scope out|derived field Loan\.overdue)/.test(use))).toBe(true);
  expect(uses.some((use) => /^query overdue_by_branch where through /.test(use))).toBe(true);
  expect(uses.some((use) => /^query worth_out (where|show) through scope out/.test(use))).toBe(true);
});

test('a role is used by loads, by their path, and by conditions of queries', () => {
  const uses = told(thing('role', 'Loan', 'borrower'));
  expect(uses).toEqual(expect.arrayContaining(['query overdue_by_branch where', 'query overdue_by_branch load borrower']));
  expect(told(thing('role', 'Loan', 'instrument'))).toContain('query last_loans load loans.instrument');
});

test('each use is told once, with the place that it has in the text', () => {
  const uses = usedBy(demo, thing('field', 'Player', 'email'));
  expect(new Set(uses.map(({ span }) => span.start)).size).toBe(uses.length);
  for (const { span, through } of uses) if (through.length === 0) expect(demo.text.slice(span.start, span.end)).toBe('email');
});

test('derived fields that stand on each other are followed to the end, and no further', () => {
  const text = `entity Hall\n  id     integer key\n  seats  integer\n  large = seats > 100\n  grand = large and seats > 400\n  check sound: seats > 0\n\nquery grand_halls\n  from Hall\n  where grand\n`;
  const design = readDesign(text);
  expect(told(thing('field', 'Hall', 'seats'), design)).toEqual([
    'derived field Hall.large',
    'derived field Hall.grand',
    'check Hall.sound',
    'derived field Hall.grand through derived field Hall.large',
    'query grand_halls where through derived field Hall.grand',
  ]);
  expect(usedByInWords(usedBy(design, thing('field', 'Hall', 'seats')), 2)).toBe(
    'derived field Hall.large, derived field Hall.grand and 2 more',
  );
  expect(told(thing('field', 'Hall', 'id'), design)).toEqual([]);
});

test('a name that a query gives to what it shows is declared there, told, and used where the query speaks of it', () => {
  const column = thing('column', 'busiest_branches', 'loans');
  expect(told(column)).toEqual(['query busiest_branches having', 'query busiest_branches order by']);
  const declared = definitionOf(demo, column);
  expect(demo.text.slice(declared?.start, declared?.end)).toBe('loans');
  expect(hover(demo, declared?.start ?? 0)?.lines[0]).toBe('What query busiest_branches shows as loans: a bigint.');
  const renamed = rename(demo, column, 'lent');
  expect(renamed).toMatchObject({ ok: true, places: 3 });
});
