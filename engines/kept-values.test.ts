import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { type EngineName, type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';

const TEXT = `tree 'Values'
  clock '2031-04-12 09:00'

choice Wear
  'new'
  'worn'

entity Item
  id     integer key
  name   text optional
  short  text(5) optional
  small  integer optional
  large  bigint optional
  price  decimal(6, 2) optional
  long   decimal(20, 2) optional unique
  part   decimal(20, 20) optional
  whole  decimal(20, 0) optional
  ratio  real optional
  sound  boolean optional
  wear   Wear optional
  day    date optional
  at     time optional
  moment timestamp optional
  code   uuid optional
  data   json optional
  raw    bytes optional

sample Item 0
`;

/** What a column must not take, as SQL that some writer may come with. */
const REFUSED: readonly [string, string, readonly EngineName[]][] = [
  ['name', "'a' || char(0) || 'b'", ['sqlite']],
  ['name', "concat('a', char(0 using utf8mb4), 'b')", ['mariadb']],
  ['name', "x'6162'", ['sqlite']],
  ['short', "'abcdef'", ['sqlite', 'postgres', 'mariadb']],
  ['short', "'ab' || char(0) || 'cdefgh'", ['sqlite']],
  ['small', '2147483648', ['sqlite', 'postgres', 'mariadb']],
  ['small', '1.5', ['sqlite']],
  ['large', '9223372036854775808', ['sqlite', 'postgres', 'mariadb']],
  ['price', '10000', ['sqlite', 'postgres', 'mariadb']],
  ['price', '0.125', ['sqlite']],
  ...[
    "'1.2.3'",
    "''",
    "'5'",
    "'5.0'",
    "'5.000'",
    "'05.00'",
    "'-0.00'",
    "'+5.00'",
    "'--5.00'",
    "'5-.00'",
    "'.00'",
    "'-'",
    "'5.00 '",
    "'5,00'",
  ].map((value): [string, string, readonly EngineName[]] => ['long', value, ['sqlite']]),
  ['long', "'1234567890123456789.00'", ['sqlite', 'postgres', 'mariadb']],
  ['long', "x'352e3030'", ['sqlite']],
  ['part', "'1.00000000000000000000'", ['sqlite', 'postgres', 'mariadb']],
  ['whole', "'1.0'", ['sqlite']],
  ['ratio', '9e999', ['sqlite']],
  ['ratio', "'NaN'", ['sqlite', 'postgres', 'mariadb']],
  ['ratio', "'Infinity'", ['sqlite', 'postgres', 'mariadb']],
  ['sound', '2', ['sqlite', 'mariadb']],
  ['sound', "'true'", ['sqlite', 'mariadb']],
  ['wear', "'old'", ['sqlite', 'postgres', 'mariadb']],
  ['day', "'0000-01-01'", ['sqlite', 'postgres', 'mariadb']],
  ['day', "'2031-02-30'", ['sqlite', 'postgres', 'mariadb']],
  ['day', "'2040-00-00'", ['sqlite', 'postgres', 'mariadb']],
  ['day', "'2031-4-1'", ['sqlite']],
  ['day', "x'323033312d30342d3132'", ['sqlite']],
  ['at', "'24:00:00'", ['sqlite', 'postgres', 'mariadb']],
  ['at', "'12:00:00.'", ['sqlite']],
  ['at', "'12:00:00.000000'", ['sqlite']],
  ['at', "'12:00:60'", ['sqlite', 'mariadb']],
  ['at', "'12:00'", ['sqlite']],
  ['at', "'-01:00:00'", ['sqlite', 'mariadb']],
  ['moment', "'2031-04-12T09:00:00.000000z'", ['sqlite']],
  ['moment', "'2031-04-12t09:00:00.000000Z'", ['sqlite']],
  ['moment', "'2031-04-12 09:00:00.000000Z'", ['sqlite']],
  ['moment', "'2031-04-12T24:00:00.000000Z'", ['sqlite']],
  ['moment', "'2031-02-30T09:00:00.000000Z'", ['sqlite', 'postgres', 'mariadb']],
  ['moment', "'0000-04-12T09:00:00.000000Z'", ['sqlite', 'postgres']],
  ['moment', "'2040-00-00 00:00:00'", ['sqlite', 'postgres', 'mariadb']],
  ['code', "'6BA7B810-9DAD-11D1-80B4-00C04FD430C8'", ['sqlite']],
  ['code', "x'36626137623831302d396461642d313164312d383062342d303063303466643433306338'", ['sqlite']],
  ['data', "x'7b7d'", ['sqlite']],
  ['data', "'{'", ['sqlite', 'postgres', 'mariadb']],
  ['raw', "'text'", ['sqlite']],
];

/** And what it has to take, beside what looks much like it. */
const TAKEN: readonly [string, string][] = [
  ['short', "'ééééé'"],
  ['long', "'123456789012345678.00'"],
  ['long', "'-0.01'"],
  ['part', "'0.00000000000000000001'"],
  ['part', "'-0.99999999999999999999'"],
  ['whole', "'-12345678901234567890'"],
  ['day', "'0001-01-01'"],
  ['day', "'9999-12-31'"],
  ['at', "'23:59:59.999999'"],
  ['at', "'00:00:00'"],
  ['code', "'6ba7b810-9dad-11d1-80b4-00c04fd430c8'"],
  ['data', "'[1, null]'"],
];

describe.each(['sqlite', 'postgres', 'mariadb'] as const)('a table on %s', (name) => {
  let engines: Engines;
  let made: MadeTree;
  beforeAll(async () => {
    engines = openEngines(inject('servers'));
    made = await makeOn(engines, name, TEXT);
    // As strict as the server is of itself, and no stricter.
    if (name === 'mariadb') await made.database.engine.execute(["set sql_mode = 'STRICT_TRANS_TABLES'"]);
  });
  afterAll(async () => {
    await made.database.remove();
    await engines.close();
  });

  const insert = (column: string, value: string) => {
    const quoted = made.design.dialect.quote(column);
    return made.database.engine.execute([`insert into items (${quoted}) values (${value})`]);
  };

  test.each(REFUSED.filter(([, , names]) => names.includes(name)))('refuses as %s the value %s', async (column, value) => {
    expect((await insert(column, value)).ok).toBe(false);
  });

  test.each(TAKEN)('takes as %s the value %s', async (column, value) => {
    expect(await insert(column, value)).toMatchObject({ ok: true });
  });
});
