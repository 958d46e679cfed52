import Database from 'better-sqlite3';
import { describe, expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { absentFrom, type Table } from './index.js';

function tables(text: string): Map<string, Table> {
  const design = readDesign(text);
  expect(design.findings.filter((finding) => finding.weight === 'error')).toEqual([]);
  return new Map(design.schema.tables.map((table) => [table.name.name, table]));
}

const TWO = 'entity A\n  id integer key\n\nentity B\n  id integer key\n  name text(20)\n\n';

describe('keys', () => {
  test('a key column has an index, which the unique of a one-to-one serves as', () => {
    expect(
      tables(`${TWO}relation r\n  A knows one B as b\n  B knows many A as as_\n`)
        .get('as')
        ?.indexes.map((index) => index.columns),
    ).toEqual([['b_id']]);
    const one = tables(`${TWO}relation r\n  A knows one B as b\n  B knows at most one A as a\n`).get('as');
    expect(one?.uniques.map((unique) => unique.columns)).toEqual([['b_id']]);
    expect(one?.indexes).toEqual([]);
  });

  test('a unique that begins with the key column serves as its index', () => {
    const text = `entity A\n  id integer key\n  code text(3)\n  unique (b, code)\n\nentity B\n  id integer key\n\nrelation r\n  A knows one B as b\n  B knows many A as as_\n`;
    expect(tables(text).get('as')).toMatchObject({ indexes: [], uniques: [{ columns: ['b_id', 'code'] }] });
  });

  test('a key column has the type of the key that it points at', () => {
    const text =
      'entity A\n  id integer key\n\nentity B\n  id uuid key\n\nrelation r\n  A knows at most one B as b\n  B knows many A as as_\n';
    expect(tables(text).get('as')?.columns.at(-1)).toMatchObject({ name: 'b_id', type: 'UUID', notNull: false });
  });

  test('a declared key column is the field’s own, and not null where one is known', () => {
    const text = `entity A\n  id integer key\n  b_id integer optional\n\nentity B\n  id integer key\n\nrelation r\n  A knows one B as b\n  B knows many A as as_\n`;
    expect(tables(text).get('as')?.columns).toMatchObject([{ name: 'id' }, { name: 'b_id', notNull: true }]);
  });

  test('text keys are not null, which SQLite would not see to', () => {
    expect(tables('entity A\n  code text(5) key\n').get('as')?.columns[0]).toMatchObject({ name: 'code', notNull: true });
  });

  test.each(['cascade', 'restrict', 'set null', 'set default', 'no action'] as const)('on delete %s is as stated', (rule) => {
    const text = `${TWO}relation r\n  A knows at most one B as b\n  B knows many A as as_\n  on delete ${rule}\n  on update cascade\n`;
    expect(tables(text).get('as')?.foreignKeys[0]).toMatchObject({ onDelete: rule, onUpdate: 'cascade' });
  });
});

describe('pivots', () => {
  const pivot = (extra: string) =>
    tables(
      `${TWO}relation r\n  A knows many B as bs\n  B knows many A as as_\n  stored in table pairs (a_id, b_id)${extra}\n`,
    ).get('pairs');

  test('the pair is the key, both columns are not null, the second is indexed', () => {
    expect(pivot('')).toMatchObject({
      primaryKey: { columns: ['a_id', 'b_id'] },
      columns: [{ notNull: true }, { notNull: true }],
      indexes: [{ columns: ['b_id'] }],
    });
  });

  test('one that repeats has a key of its own, and both columns indexed', () => {
    expect(pivot(' repeats')).toMatchObject({
      primaryKey: { columns: ['id'] },
      indexes: [{ columns: ['a_id'] }, { columns: ['b_id'] }],
    });
  });

  test('its own fields and constraints stand in it', () => {
    const made = pivot("\n    chair integer default 1\n    unique (b_id, chair), message 'Taken'\n    check low: chair < 9");
    expect(made?.columns.at(-1)).toMatchObject({ name: 'chair', default: '1' });
    expect(made?.uniques).toMatchObject([{ columns: ['b_id', 'chair'] }]);
    expect(made?.checks.map((check) => check.expression)).toContain('chair < 9');
  });

  test('a symmetric one keeps the lesser key first', () => {
    const made = tables('entity A\n  id integer key\n\nrelation r\n  A knows many A as others, both ways\n').get('r');
    expect(made?.checks).toMatchObject([{ expression: 'a_id < other_id' }]);
  });

  test('of a key with a number of many digits is compared part by part, by what any program has that opens the file', () => {
    const key = '  number bigint\n  price decimal(30, 4)\n  key (number, price)\n';
    const made = tables(`entity A\n${key}\nrelation r\n  A knows many A as others, both ways\n`).get('r');
    const database = new Database(':memory:');
    const [check] = made?.checks ?? [];
    const lesser = database.prepare(
      `select ${check?.expression} from (select ? as a_number, ? as a_price, ? as other_number, ? as other_price)`,
    );
    expect(lesser.pluck().get(1, '9.0000', 1, '10.0000')).toBe(1);
    expect(lesser.pluck().get(1, '-9.0000', 1, '-10.0000')).toBe(0);
    expect(lesser.pluck().get(2, '1.0000', 1, '9.0000')).toBe(0);
    expect(lesser.pluck().get(1, '9.0000', 1, '9.0000')).toBe(0);
  });
});

test('names of constraints are unique in the database and lead back to what they hold', () => {
  const { schema, sources } = readDesign(
    "entity A\n  id integer key\n  check x: id > 0, message 'Positive'\n\nentity B in a_x\n  id integer key\n  unique (id)\n",
  );
  const names = schema.tables.flatMap((table) => [...table.checks, ...table.uniques].map((constraint) => constraint.name));
  expect(new Set(names).size).toBe(names.length);
  expect(sources.find((source) => source.constraint === 'as_x')).toEqual({
    constraint: 'as_x',
    what: 'A: check x',
    message: 'Positive',
  });
});

describe('what a text has and a database has not', () => {
  const wished = readDesign(
    `${TWO}relation r\n  A knows one B as b\n  B knows many A as as_\n\nrelation p\n  A knows many B as bs\n  B knows many A as back\n`,
  );

  test('is nothing where they are the same', () => {
    expect(absentFrom(wished.model, wished.schema)).toEqual([]);
  });

  test('is a table, a column or a key column, by its owner', () => {
    const actual = {
      prelude: [],
      others: [],
      tables: wished.schema.tables
        .filter((table) => table.name.name !== 'p')
        .map((table) => ({
          ...table,
          columns: table.columns.filter((column) => column.name !== 'name' && column.name !== 'b_id'),
        })),
    };
    expect(absentFrom(wished.model, actual)).toEqual([
      { owner: 'B', table: 'bs', column: 'name' },
      { owner: 'r', table: 'as', column: 'b_id' },
      { owner: 'p', table: 'p', column: null },
    ]);
  });

  test('names are compared as SQL does', () => {
    const shouting = {
      prelude: [],
      others: [],
      tables: wished.schema.tables.map((table) => ({
        ...table,
        name: { schema: null, name: table.name.name.toUpperCase() },
        columns: table.columns.map((column) => ({ ...column, name: column.name.toUpperCase() })),
      })),
    };
    expect(absentFrom(wished.model, shouting)).toEqual([]);
  });
});

describe('tables as stated', () => {
  const HEAD = "tree 'T'\n  tables as stated\n  stored bigint as 'INT'\n  stored text(n) as 'nchar(n)'\n\n";
  const BODY = `entity A in things
  id     bigint key not null
  name   text(20) collate NOCASE default sql('lower(''X'')')
  code   text(8) stored as 'CHAR(8)'
  size   bigint generated as 'length(name)' stored
  unique (name), as index things_name
  unique (code, name), named code_once
  index (code), named things_code
  kept 'WITHOUT ROWID'
  kept 'create trigger t after insert on things begin',
    '  select 1;',
    'end'
  kept 'check (length(name) > 1)'

entity B
  id  bigint key

relation r
  A knows at most one B as b
  B knows many A as as_
  kept 'foreign key (b_id) references bs match full'
`;

  test('have nothing but what the text states, in its own words', () => {
    const made = tables(HEAD + BODY).get('things');
    expect(made?.columns).toMatchObject([
      { name: 'id', type: 'INT', notNull: true },
      { name: 'name', type: 'nchar(20)', collation: 'NOCASE', default: "lower('X')" },
      { name: 'code', type: 'CHAR(8)' },
      { name: 'size', type: 'INT', generated: { sql: 'length(name)', stored: true } },
      { name: 'b_id', type: 'INT' },
    ]);
    expect(made?.checks).toEqual([]);
    expect(made).toMatchObject({
      indexes: [
        { name: 'things_name', unique: true },
        { name: 'things_code', unique: false },
      ],
      uniques: [{ name: 'code_once', columns: ['code', 'name'] }],
      foreignKeys: [{ name: null, sql: 'foreign key (b_id) references bs match full' }],
      constraints: ['check (length(name) > 1)'],
      options: ['WITHOUT ROWID'],
      triggers: [{ kind: 'written', name: 't', sql: 'create trigger t after insert on things begin\n  select 1;\nend' }],
    });
  });

  test('elsewhere types are kept by checks, keys have indexes, and constraints have names', () => {
    const made = tables(`entity A in things\n  id    bigint key\n  name  text(20)\n  code  text(8) stored as 'CHAR(8)'\n`).get(
      'things',
    );
    expect(made?.checks.map(({ name }) => name)).toEqual(['things_name_type']);
  });

  test('a whole CREATE TABLE stands in for all that the sentences make', () => {
    const made = tables(
      `${HEAD}entity A in things\n  id bigint key\n  kept 'create table things (id int primary key on conflict ignore)'\n`,
    );
    expect(made.get('things')?.statement).toBe('create table things (id int primary key on conflict ignore)');
  });
});

test.each([
  ['mariadb', 'fulltext key words (name)'],
  ['postgres', 'exclude using gist (name with =)'],
])('on %s a kept %s stands among the constraints of its table', (dialect, kept) => {
  const design = readDesign(
    `tree 'Kept'\n  dialect ${dialect}\n\nentity A in things\n  id    integer key\n  name  text(20)\n  kept '${kept}'\n`,
  );
  const [made] = design.dialect.createStatements(design.schema).filter((sql) => sql.startsWith('create table'));
  expect(made?.slice(0, made.lastIndexOf(')'))).toContain(`,\n  ${kept}`);
});
