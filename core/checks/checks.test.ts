import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';

// What tables are called says nothing of what is looked for here.
const codes = (text: string) =>
  readDesign(text)
    .findings.map((finding) => finding.code)
    .filter((code) => code !== 'name-on-engine');
const messages = (text: string) =>
  readDesign(text)
    .findings.map((finding) => finding.message)
    .join('\n');

const PLAYER = 'entity Player\n  id integer key\n  name text(20)\n\n';

describe('a field that is named like a key', () => {
  test('is told where no relation says so', () => {
    const text = `${PLAYER}entity Loan\n  id integer key\n  player_id integer\n`;
    expect(codes(text)).toEqual(['loose-key']);
    expect(messages(text)).toContain('State one with “stored in Loan.player_id”');
  });

  test('is not told where a relation stores it, where it is the key, or where nothing is called so', () => {
    expect(
      codes(
        `${PLAYER}entity Loan\n  id integer key\n  player_id integer\n\nrelation r\n  Loan knows one Player as player\n  Player knows many Loan as loans\n`,
      ),
    ).toEqual([]);
    expect(codes(`${PLAYER}entity Loan\n  player_id integer key\n`)).toEqual([]);
    expect(codes(`${PLAYER}entity Loan\n  id integer key\n  external_id text(20)\n`)).toEqual([]);
  });
});

describe('a code that is kept as a number', () => {
  test('loses its leading zeros', () => {
    expect(codes('entity Branch\n  id integer key\n  postcode integer\n  phone bigint\n  phone_text text(20)\n')).toEqual([
      'number-code',
      'number-code',
    ]);
  });

  test('is no matter where it is only part of a word', () => {
    expect(codes('entity Branch\n  id integer key\n  zipper_count integer\n')).toEqual([]);
  });
});

describe('keys that need each other', () => {
  const loop = (first: string) =>
    `entity A\n  id integer key\n\nentity B\n  id integer key\n\nentity C\n  id integer key\n\nrelation x\n  A knows ${first} B as b\n\nrelation y\n  B knows one C as c\n\nrelation z\n  C knows one A as a\n`;

  test('let no first row in, and the message names the whole loop', () => {
    expect(codes(loop('one'))).toEqual(['required-loop']);
    expect(messages(loop('one'))).toContain('A needs a B, B needs a C, C needs an A');
  });

  test('are fine where one of them may stay empty', () => {
    expect(codes(loop('at most one'))).toEqual([]);
  });
});
