import { expect, test } from 'vitest';
import { readDesign } from '../design/index.js';
import { scriptOf } from '../dialects/index.js';
import type { DialectName } from '../notation/index.js';

const TEXT = `tree 'Moved'
  dialect postgres
  tables as stated
  kept 'create view busy as select 1'

choice Tone
  'bright'
  'dull'

entity Hall
  id     integer key
  name   text(40) collate C
  tags   sql('text[]') optional
  tone   Tone stored as 'tone'
  seen   timestamp default sql('clock_timestamp()')
  loud   text generated as 'upper(name)' stored

entity Ring
  code   text key

relation next
  Ring knows at most one Ring as next
  Ring knows many Ring as before
  on update cascade
`;

const found = (dialect: DialectName) =>
  readDesign(TEXT, dialect)
    .findings.filter(({ code }) => code === 'not-on-dialect')
    .map(({ weight, message }) => `${weight} ${message}`);

test('a text says nothing of the kind on the engine that it was written for', () => {
  expect(found('postgres')).toEqual([]);
});

test.each(['sqlite', 'mariadb'] as const)('on %s each loss is a finding that names the thing and a way out', (dialect) => {
  const all = found(dialect).join('\n');
  expect(all).toMatch(/warning Hall\.tags has a type of PostgreSQL, text\[\].*json holds lists/);
  expect(all).toMatch(/note Hall\.tone is an enumerated type of PostgreSQL.*a check of the same list/);
  expect(all).toMatch(/warning Hall\.seen has a default in SQL of PostgreSQL.*today or now/);
  expect(all).toMatch(/warning Hall\.loud is computed by PostgreSQL.*loud = …/);
  expect(all).toMatch(/note Hall\.name is compared by PostgreSQL’s collation C/);
  expect(all).toMatch(/warning “create view busy as …” is kept in the SQL of PostgreSQL/);
});

test('what MariaDB refuses is an error before any SQL, and a key of a text without a length gets one', () => {
  const all = found('mariadb').join('\n');
  expect(all).toMatch(/error next: MariaDB does not carry a changed key on within one table/);
  expect(all).toMatch(/warning Ring\.code is a key, and MariaDB keeps no key of a text without a length/);
  const { schema, dialect } = readDesign(TEXT, 'mariadb');
  expect(scriptOf(dialect, schema)).toMatch(/code varchar\(768\) not null/);
});

test('a type of another engine is kept as its text, so that the tables can be made', () => {
  const sql = (name: DialectName) => {
    const { schema, dialect } = readDesign(TEXT, name);
    return scriptOf(dialect, schema);
  };
  expect(sql('postgres')).toMatch(/tags text\[\]/);
  expect(sql('mariadb')).toMatch(/tags longtext/);
  expect(sql('sqlite')).toMatch(/tags TEXT/);
});
