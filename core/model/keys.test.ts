import { describe, expect, test } from 'vitest';
import { parse } from '../notation/index.js';
import { entityOf, resolve } from './index.js';

function resolved(text: string) {
  const { model, findings } = resolve(parse(text));
  return { model, messages: findings.filter(({ weight }) => weight === 'error').map(({ message }) => message) };
}

const BRANCHES = `entity Branch in branches
  town  text(20)
  code  integer
  key (town, code)
`;

const SHELVES = `${BRANCHES}
entity Shelf in shelves
  number  integer
  key (branch, number)

relation shelving
  Shelf knows one Branch as branch
  Branch knows many Shelf as shelves
`;

describe('keys of several columns', () => {
  test('have their parts in order, and a type of the parts', () => {
    const { model, messages } = resolved(BRANCHES);
    expect(messages).toEqual([]);
    expect(entityOf(model, 'Branch').key).toMatchObject({
      columns: ['town', 'code'],
      type: { kind: 'composite', parts: [{ kind: 'text' }, { kind: 'integer' }] },
    });
  });

  test('one field in a line says the same as the field’s own word', () => {
    const key = entityOf(resolved('entity A\n  id integer\n  key (id), named a_pk\n').model, 'A').key;
    expect(key).toMatchObject({ columns: ['id'], type: { kind: 'integer' }, named: 'a_pk' });
  });

  test('a role may be part of one, and stands for its columns, however far its own key goes on', () => {
    const text = `${SHELVES}\nentity Box in boxes\n  place  integer\n  key (shelf, place)\n\nrelation boxing\n  Box knows one Shelf as shelf\n  Shelf knows many Box as boxes\n`;
    const { model, messages } = resolved(text);
    expect(messages).toEqual([]);
    expect(entityOf(model, 'Shelf').key.columns).toEqual(['branch_town', 'branch_code', 'number']);
    expect(entityOf(model, 'Box').key.columns).toEqual(['shelf_branch_town', 'shelf_branch_code', 'shelf_number', 'place']);
  });

  test('a part may be another role’s column, which is then set once', () => {
    const text = `${SHELVES}\nentity Loan in loans\n  id          integer key\n  town        text(20)\n  shelf_code  integer optional\n  shelf_no    integer optional\n  home_code   integer\n
relation storing
  Loan knows at most one Shelf as shelf
  Shelf knows many Loan as loans
  stored in Loan.(town, shelf_code, shelf_no)

relation homing
  Loan knows one Branch as home
  Branch knows many Loan as loans
  stored in Loan.(town, home_code)
`;
    const { model, messages } = resolved(text);
    expect(messages).toEqual([]);
    expect(entityOf(model, 'Loan').roles.map(({ way }) => way.kind === 'key' && way.columns)).toEqual([
      ['town', 'shelf_code', 'shelf_no'],
      ['town', 'home_code'],
    ]);
  });

  test.each([
    ['entity A\n  id integer\n  key (id, nothing)\n', 'A has no field nothing'],
    ['entity A\n  id integer key\n  b integer\n  key (id, b)\n', 'A names its key twice'],
    ['entity A\n  id integer\n  key (id, id)\n', 'its key names id twice'],
    ['entity A\n  id integer\n  raw bytes\n  key (id, raw)\n', 'bytes cannot be a key'],
    [
      'entity A\n  n integer\n  key (b, n)\n\nentity B\n  n integer\n  key (a, n)\n\nrelation r\n  A knows one B as b\n  B knows one A as a\n  stored in A.(b_a, b_n)\n',
      'its key stands on itself, over A → B → A',
    ],
    [
      `${SHELVES}\nrelation more\n  Shelf knows one Branch as other\n  stored in Shelf.other_id\n`,
      'Branch’s key has 2 parts (town, code), so it is stored in as many columns',
    ],
    [
      `${SHELVES}\nrelation more\n  Shelf knows at most one Branch as other\n  Branch knows many Shelf as others\n  stored in Shelf.(branch_town, branch_code)\n  on delete set null\n`,
      'so it cannot be set null',
    ],
  ])('%s: %s', (text, message) => {
    expect(resolved(text).messages.join('\n')).toContain(message);
  });

  test('a table without a key is told apart by its rows’ numbers', () => {
    expect(entityOf(resolved('entity Log in log\n  line text\n  key (rowid)\n').model, 'Log').key).toMatchObject({
      byRow: true,
      columns: ['rowid'],
    });
  });
});
