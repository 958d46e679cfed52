import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { importSchema } from '../core/import/index.js';
import { relationsKept } from '../core/schema/index.js';
import { dialectOf, type EngineName, type Engines, openEngines } from '../tests/engines.js';
import { preparedQuery } from '../tests/prepared.js';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

const TABLES = [
  'create table branches (id integer not null primary key, name varchar(20) not null)',
  'create table players (id integer not null primary key, branch_id integer not null references branches (id), name varchar(20))',
  'create table loans (id integer not null primary key, player_id integer not null, lender_id integer, other_id integer not null, foreign key (player_id) references players (id), foreign key (lender_id) references players (id))',
];

test.each<[EngineName, readonly string[]]>([
  ['postgres', ['loan_player', 'player_branch']],
  ['embedded', ['loan_player', 'player_branch']],
  ['mariadb', ['loan_player', 'player_branch']],
  ['sqlite', []],
])('what %s itself keeps of a key is joined as one that is there', async (name, kept) => {
  const database = await engines.open(name);
  // MariaDB takes a key only by itself.
  const tables = TABLES.map((sql) =>
    sql.replace(
      ' references branches (id), name varchar(20)',
      ', name varchar(20), foreign key (branch_id) references branches (id)',
    ),
  );
  expect((await database.engine.execute(tables)).ok).toBe(true);
  const looked = await database.engine.introspect();
  if (!looked.ok) throw new Error(looked.problem.message);
  const { text } = importSchema(looked.value, 'Shop');
  const design = readDesign(text, dialectOf(name));
  const found = relationsKept(design.model, looked.value.schema, design.dialect.powers.keepsKeysForAll);
  expect([...found].sort()).toEqual(kept);
  const asked = "from Loan\nwhere player.branch.name = 'x' and lender.name is null";
  const { select } = preparedQuery(design, asked, { madeHere: false, kept: found }).compiled;
  const kinds = select.joins.map(({ kind, source }) => [kind, source.alias]);
  const inner = kept.length > 0 ? 'inner' : 'left';
  expect(kinds).toEqual([
    [inner, 'players'],
    [inner, 'branches'],
    ['left', 'lender'],
  ]);
  await database.remove();
});
