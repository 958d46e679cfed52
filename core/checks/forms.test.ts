import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { applied } from '../edits/index.js';
import type { DialectName } from '../notation/index.js';
import { whyOf } from './index.js';

const BASE = `entity Player
  id    integer key
  name  text(20)

entity Hall
  id    integer key
  name  text(20)

entity Loan
  id  integer key

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans
`;

/** A fault in a text that is sound without it, and the code by which it is told. */
const PLANTED: readonly [code: string, text: string, dialect?: DialectName][] = [
  ['name-clash', 'relation second\n  Loan knows one Player as other\n  Player knows many Loan as loans\n'],
  ['name-clash', 'relation hides\n  Loan knows one Hall as id\n'],
  ['key-type-mismatch', 'entity Seat\n  id integer key\n  hall_id text(20)\n\nrelation seats\n  Seat knows one Hall as hall\n'],
  ['inexact-check', 'entity Fee\n  id integer key\n  paid decimal(20, 2)\n  check some: paid + 1 > 2\n'],
  ['inexact-check', 'entity Fee\n  id integer key\n  paid decimal(8, 2)\n  times integer\n  check some: paid * times > 2\n'],
  ['inexact-check', "entity Fee\n  id integer key\n  share real\n  check some: '' || share <> '0'\n"],
  ['session-settings', 'relation r\n  Loan knows at most one Hall | Player as of\n'],
  ['set-null-required', 'relation r\n  Loan knows one Hall as hall\n  on delete set null\n'],
  ['self-required', 'relation r\n  Hall knows one Hall as next\n  Hall knows many Hall as before\n'],
  ['not-on-dialect', 'relation r\n  Loan knows at most one Hall as hall\n  on delete set default\n', 'mariadb'],
  ['triggered-cascade', 'relation r\n  Loan knows at most one Loan | Hall as of\n  on delete cascade\n', 'mariadb'],
  [
    'triggered-cascade',
    'relation m\n  Player knows at most one Player as mentor\n  on delete cascade\n\nrelation r\n  Loan knows at most one Player | Hall as of\n  on delete cascade\n',
    'mariadb',
  ],
  [
    'triggered-cascade',
    'relation b\n  Hall knows at most one Loan as loan\n  on delete cascade\n\nrelation r\n  Loan knows at most one Player | Hall as of\n  on delete cascade\n',
    'mariadb',
  ],
  [
    'triggered-cascade',
    'entity Card\n  key (player)\n\nrelation c\n  Card knows one Player as player\n  on update cascade\n\nrelation r\n  Loan knows at most one Card | Hall as of\n',
    'mariadb',
  ],
  [
    'triggered-cascade',
    'entity Space\n  id integer key\n  kinds in joined tables by sort\n\nentity Attic is Space\n  size integer\n\nrelation h\n  Loan knows at most one Attic as attic\n  on delete cascade\n\nrelation s\n  Space knows at most one Loan as loan\n  on delete cascade\n\nrelation r\n  Loan knows at most one Attic | Hall as of\n  on delete restrict\n',
    'mariadb',
  ],
  [
    'cascade-loop',
    'relation a\n  Hall knows at most one Loan as loan\n  on delete cascade\n\nrelation b\n  Loan knows at most one Hall as hall\n  on delete cascade\n',
  ],
  ['required-loop', 'relation a\n  Hall knows one Loan as loan\n\nrelation b\n  Loan knows one Hall as hall\n'],
  [
    'far-side-one',
    'relation a\n  Hall knows one Loan as loan\n  Loan knows many Hall as halls\n\nrelation c\n  Loan knows one Hall as in_hall\n  Hall knows one Loan as only\n  stored in Loan.in_hall_id\n',
  ],
  ['no-keeper', 'relation r\n  Loan knows one Player | Hall as of\n  stored in Loan.of_type with Loan.of_id without triggers\n'],
  [
    'one-of-several',
    'relation r\n  Loan knows one Player | Hall as of\n  Player knows many Loan as ofs\n  Hall knows at most one Loan as of_one\n',
  ],
  [
    'lost-rules',
    'entity Space abstract\n  id integer key\n  kinds in json more by sort\n\nentity Yard is Space\n  size integer\n',
  ],
  ['first-unordered', 'path Player.last = loans first\n'],
  [
    'always-load-loop',
    'entity A\n  id integer key\n  always load b\n\nentity B\n  id integer key\n  always load a\n\nrelation ab\n  A knows at most one B as b\n\nrelation ba\n  B knows at most one A as a\n',
  ],
  [
    'pair-entity',
    'entity Seat in seats\n  id integer key\n\nrelation s1\n  Seat knows one Hall as hall\n\nrelation s2\n  Seat knows one Player as player\n',
  ],
  ['name-on-engine', `entity ${'Very'.repeat(18)}Long\n  id integer key\n`, 'postgres'],
  ['name-on-engine', 'entity Order\n  id integer key\n  check integer\n'.replace('  check integer\n', '  group integer\n')],
  ['name-on-engine', `entity Sound\n  id integer key\n  "${'ü'.repeat(32)}" text(20)\n`, 'postgres'],
  [
    'name-on-engine',
    'entity Mute in mutes\n  id integer key\n\nrelation m\n  Mute knows one Player | Hall as what\n  stored in Mute.group with Mute.what_id\n',
  ],
  ['no-sentence', 'relation silent\n  stored in Player.hall_id\n'],
  ['secret-field', 'entity Login\n  id integer key\n  password text(80)\n'],
  ['number-code', 'entity Shop\n  id integer key\n  postcode integer\n'],
  [
    'searched-text',
    'entity Shop\n  id integer key\n  slug text\n\nquery by_slug(slug text(20))\n  from Shop\n  where slug = :slug\n',
    'mariadb',
  ],
  ['endless-text', 'entity Shop\n  id integer key\n  slug text unique\n', 'mariadb'],
  [
    'same-relation',
    'relation a\n  Hall knows many Player as players\n  Player knows many Hall as halls\n\nrelation b\n  Hall knows many Player as guests\n  Player knows many Hall as guest_of\n',
  ],
  ['given-unkept', 'entity Log in log given\n  id integer key\n\nrelation l\n  Log knows at most one Player as player\n'],
  ['loose-key', 'entity Seat\n  id integer key\n  hall_id integer\n'],
  ['abstract-alone', 'entity Nothing abstract\n  id integer key\n'],
  [
    'mark-clash',
    "entity S\n  id integer key\n  kinds in single table by sort\n\nentity K is S marked 'x'\n  a integer\n\nentity L is S marked 'x'\n  b integer\n",
  ],
  [
    'separate-key',
    'entity S abstract\n  id integer key\n  kinds in separate tables\n\nentity K is S\n  a integer\n\nentity L is S\n  b integer\n',
  ],
  [
    'kind-beside-base',
    'entity S\n  id integer key\n  kinds in single table by sort\n\nentity K is S\n  a integer\n\nrelation r\n  Loan knows one S | K as of\n',
  ],
  [
    'column-clash',
    'entity S\n  id integer key\n  kinds in single table by sort\n\nentity K is S\n  size integer\n\nentity L is S\n  size integer\n',
  ],
  [
    'column-clash',
    'entity Mute\n  id integer key\n  on_type text(40)\n  on_id integer\n\nrelation m\n  Mute knows one Player | Hall as what\n  stored in Mute.on_type with Mute.on_id\n',
  ],
  ['path-loop', 'path Player.round = round.round\n'],
];

const codesOf = (text: string, dialect: DialectName | null = null) => readDesign(text, dialect).findings.map(({ code }) => code);

describe('a fault that is planted in a sound text', () => {
  test.each(PLANTED)('%s is found: %s', (code, text, dialect) => {
    expect(codesOf(BASE, dialect)).toEqual([]);
    const { findings } = readDesign(`${BASE}\n${text}`, dialect);
    const found = findings.filter((finding) => finding.code === code);
    expect(found.length, findings.map((finding) => finding.code).join()).toBeGreaterThan(0);
    expect(whyOf(code), code).not.toBeNull();
    for (const { message, span } of found) {
      expect(message.length).toBeGreaterThan(30);
      expect(span.end).toBeGreaterThan(span.start);
    }
  });

  test('a fix does away with what it is for, and adds nothing', () => {
    let fixed = 0;
    for (const [code, planted, dialect] of PLANTED) {
      const text = `${BASE}\n${planted}`;
      const before = readDesign(text, dialect ?? null).findings;
      for (const finding of before.filter((one) => one.code === code)) {
        for (const fix of finding.fixes) {
          const after = readDesign(applied(text, fix.edits), dialect ?? null).findings;
          expect(
            after.map(({ message }) => message),
            fix.title,
          ).not.toContain(finding.message);
          const wrong = (some: typeof after) => some.filter(({ weight }) => weight === 'error').length;
          expect(wrong(after), `${fix.title}\n${applied(text, fix.edits)}`).toBeLessThanOrEqual(wrong(before));
          fixed += 1;
        }
      }
    }
    expect(fixed).toBeGreaterThan(5);
  });

  test('two relations that claim one role are offered names for both', () => {
    const text = `${BASE}\nrelation second\n  Loan knows one Player as guarantor\n  Player knows many Loan as loans\n`;
    const [finding] = readDesign(text).findings;
    expect(finding?.fixes[0]?.title).toBe('Call them loans_as_borrower and loans_as_guarantor');
    expect(codesOf(applied(text, finding?.fixes[0]?.edits ?? []))).not.toContain('name-clash');
  });
});

test('the demo has nothing that is wrong or doubtful, on any engine', () => {
  const text = readFileSync('demo/library.kin', 'utf8');
  for (const dialect of ['sqlite', 'postgres', 'mariadb'] as const)
    expect(readDesign(text, dialect).findings.filter(({ weight }) => weight !== 'note')).toEqual([]);
});

test('an index that nothing stated made is missed in a text that others wrote', () => {
  const text = `tree 'House'\n  tables as stated\n\n${BASE}`;
  const [finding] = readDesign(text).findings;
  expect(finding?.code).toBe('unindexed-key');
  expect(codesOf(applied(text, finding?.fixes[0]?.edits ?? []))).toEqual([]);
});

test('a wall that no index serves is told, with the index that would; one that asks for a key or a unique is not', () => {
  const walled = (...lines: readonly string[]) =>
    `tree 'House'\n  actor Player\n\nentity Branch\n  id  integer key\n\nentity Player\n  id     integer key\n  name   text(40)\n  email  text(80) unique\n  rank   integer default 1\n\nrelation home\n  Player knows one Branch as branch\n  Branch knows many Player as players\n\nwall own\n${lines.map((line) => `  Player where ${line}\n`).join('')}`;
  const told = (...lines: readonly string[]) =>
    readDesign(walled(...lines)).findings.filter(({ code }) => code === 'unindexed-wall');
  const [finding, ...more] = told('rank >= me.rank');
  expect(more).toEqual([]);
  expect(finding?.message).toContain('no index begins with rank');
  expect(codesOf(applied(walled('rank >= me.rank'), finding?.fixes[0]?.edits ?? []))).toEqual([]);
  expect(told('rank >= me.rank and branch = me.branch')).toEqual([]);
  for (const served of ['branch = me.branch', 'id = me.id', 'email = me.email', 'branch.id = 3', 'id in (1, 2)'])
    expect(told(served)).toEqual([]);
  // Nothing is told of a condition that an index could not serve in any case.
  expect(told("name <> 'x'")).toEqual([]);
});

test('an index that is kept as SQL leads to the key that it begins with, however that is named', () => {
  const of = (column: string, index: string) =>
    `tree 'House'\n  tables as stated\n\nentity Player\n  id  integer key\n\nentity Loan\n  id  integer key\n  kept '${index}'\n\nrelation borrowing\n  Loan knows one Player as borrower\n  Player knows many Loan as loans\n  stored in Loan.${column}\n`;
  expect(codesOf(of('borrower_id', 'create index by_borrower on loan (borrower_id) where id > 3'))).toEqual([]);
  expect(codesOf(of('borrower_id', 'create unique index by_day on loan (id, borrower_id)'))).toEqual(['unindexed-key']);
  expect(codesOf(of('borrower_id', 'create index by_length on loan (length(borrower_id))'))).toEqual(['unindexed-key']);
  expect(codesOf(of('"borrow(er"', 'create index by_borrower on loan ("borrow(er" desc)'))).toEqual([]);
  expect(codesOf(of('"borrow(er"', 'create index by_day on loan (lent_on)'))).toEqual(['unindexed-key']);
});
