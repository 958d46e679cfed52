import { expect, test } from 'vitest';
import { inLines, isCommands, parseQuery, writtenInLines } from './index.js';

const LINES = `from Loan\nwhere overdue and note <> 'a; b'\nload borrower (name)\nlimit 5`;
const ONE = `from Loan; where overdue and note <> 'a; b';load borrower (name) ;  limit 5;`;

test('a query on one line means what it means in lines', () => {
  expect(writtenInLines(ONE)).toBe(LINES);
  const kinds = (text: string) => parseQuery(text).lines.map(({ kind }) => kind);
  expect(kinds(ONE)).toEqual(kinds(LINES));
  expect(parseQuery(ONE).findings).toEqual([]);
});

test('its words stay where they are, so that a finding and a statement lead to them', () => {
  expect(inLines(ONE)).toHaveLength(ONE.length);
  const written = (text: string) => parseQuery(text).lines.map(({ span }) => text.slice(span.start, span.end));
  expect(written(ONE)).toEqual(written(LINES));
});

test('what stands in a comment, in a literal or in a name ends no line, and a text of several lines has no such end', () => {
  for (const text of [`from Loan -- all; limit 5`, `from Loan where note = 'a; b'`, `from "Lo;an"`, 'from Loan;\nlimit 5'])
    expect(inLines(text)).toBe(text);
  expect(parseQuery('from Loan;\nlimit 5').findings).not.toEqual([]);
});

test('an open quote keeps what is behind it', () => {
  expect(inLines(`from Loan; where note = 'a; limit 5`)).toBe(`from Loan \nwhere note = 'a; limit 5`);
});

test('commands are told from a query by how their first line begins', () => {
  for (const commands of [
    "create Player with name 'x'",
    'x = create Player',
    'find or create Player[id = 1]',
    'delete Loan(1); from Loan',
    'as nobody',
  ])
    expect(isCommands(commands), commands).toBe(true);
  for (const query of ['from Loan', 'where x = 1', '', '-- create Player\nfrom Player'])
    expect(isCommands(query), query).toBe(false);
});
