import { readFileSync } from 'node:fs';
import { expect, test } from 'vitest';
import { preparedQuery } from '../../tests/prepared.js';
import { readDesign } from '../design/index.js';
import type { DialectName, LoadWay } from '../notation/index.js';
import type { CompiledRows, CompiledStatement } from './compile/index.js';

const text = readFileSync('demo/library.kin', 'utf8');

const QUERY = `from Player
where steward
load loans (due_on) where out order by due_on limit 3
  instrument (name)
order by name
limit 5`;

function statements(query: string, way?: LoadWay, dialect: DialectName = 'sqlite'): string[] {
  const design = readDesign(text, dialect);
  const all = (read: CompiledStatement): string[] => [design.dialect.printQuery(read.select), ...below(read)];
  const below = ({ loads, joined, nested }: CompiledRows): string[] => [
    ...loads.flatMap(all),
    ...[...joined, ...nested].flatMap(below),
  ];
  return all(preparedQuery(design, query, way === undefined ? {} : { way }).compiled);
}

test('by batch and by row each load has a statement; joined and as JSON all come in one', () => {
  expect(statements(QUERY, 'batch')).toHaveLength(3);
  expect(statements(QUERY, 'row')).toHaveLength(3);
  expect(statements(QUERY, 'join')).toHaveLength(1);
  expect(statements(QUERY, 'json')).toHaveLength(1);
});

test('each load has the way that the text states, whatever the others have', () => {
  const mixed = `from Player
load loans by json
  instrument by batch
load branch by join
load ensembles by row`;
  const [root = '', ...others] = statements(mixed);
  expect(root).toContain('json_group_array');
  expect(root).toContain('\njoin branches');
  expect(others).toHaveLength(2);
  expect(others[1]).toContain('in (select value from json_each(:keys))');
  expect(others[0]).toContain('seats.player_id = :key');
});

test('joined, a table that is read as it is is joined as it is; the limit of the root stands before any join', () => {
  expect(statements('from Loan\nload borrower (name)\nlimit 5', 'join')[0]).toBe(
    `select chosen.id, chosen.lent_on, chosen.due_on,
       chosen.returned_on, chosen.borrower_id,
       chosen.instrument_id, players.id as id_2, players.name
from (
  select loans.id, loans.lent_on, loans.due_on,
         loans.returned_on, loans.borrower_id,
         loans.instrument_id
  from loans
  order by loans.due_on, loans.id
  limit 5
) chosen
join players on players.id = chosen.borrower_id
order by chosen.due_on, chosen.id`,
  );
});

test('joined, no row of an owner is lost: only what surely is there is joined as if it were', () => {
  // Below what may be none, nothing is sure.
  const [below = ''] = statements('from Branch\nload players\n  branch', 'join');
  expect(below).toMatch(/left join players[\s\S]*left join branches/);
  expect(statements('from Loan\nload borrower\n  branch', 'join')[0]).toMatch(/\njoin players[\s\S]*\njoin branches/);
  expect(statements('from Loan\nload borrower where steward', 'join')[0]).toContain('left join players');
  expect(statements('from Player\nload mentor', 'join')[0]).toContain('left join players players_2');
});

test('a limit of a load is one for each owner, in the way in which each engine is quickest; of one owner, at once', () => {
  const [, sqlite] = statements(QUERY, 'batch');
  expect(sqlite).toContain('from json_each(:keys) owners\njoin loans\n  on loans.id in (');
  expect(sqlite).toMatch(/where loans_2\.borrower_id = owners\.value\n[\s\S]*limit 3\n {2}\)/);
  const [, postgres] = statements(QUERY, 'batch', 'postgres');
  expect(postgres).toMatch(
    /from unnest\(cast\(:keys as integer\[\]\)\) owners \(value\)\ncross join lateral \([\s\S]*limit 3\n\) ranked/,
  );
  expect(statements(QUERY, 'batch', 'mariadb')[1]).toContain('where ranked.place <= 3');
  // Over pairs a row is found by no key of its own.
  expect(statements('from Player\nload ensembles limit 2', 'batch')[1]).toContain('where ranked.place <= 2');
  expect(statements(QUERY, 'row')[1]).toMatch(/limit 3$/);
  expect(statements(QUERY, 'json')[0]).toContain('limit 3');
});

test('where a select in a join cannot speak of the row before it, lists of JSON are made for all owners and joined', () => {
  const [maria = ''] = statements('from Player\nload loans (due_on)', 'json', 'mariadb');
  expect(maria).toContain('json_arrayagg(json_array(');
  expect(maria).toContain('group by loans.borrower_id');
  expect(statements('from Player\nload loans (due_on)', 'json', 'postgres')[0]).toContain('coalesce(json_agg(');
});

test('more values than one call takes stand in several lists', () => {
  const fields = Array.from({ length: 95 }, (_, at) => `  f_${at}  integer optional\n`).join('');
  const wide = `entity Box\n  id  integer key\n\nentity Thing\n  id  integer key\n${fields}\nrelation put\n  Thing knows one Box as box\n  Box knows many Thing as things\n`;
  const design = readDesign(wide, 'postgres');
  const sql = design.dialect.printQuery(preparedQuery(design, 'from Box\nload things', { way: 'json' }).compiled.select);
  expect(sql.match(/json_build_array\(/g)).toHaveLength(3);
});

test('a role that an order or a condition walks, and a load joins, is joined once, with what is loaded below it', () => {
  const query = "from Loan\nwhere borrower.branch.name <> 'Quay'\nload borrower (name)\n  branch (name)\norder by borrower.name";
  const [sql = ''] = statements(query, 'join');
  expect(sql.match(/join players/g)).toHaveLength(1);
  expect(sql.match(/join branches/g)).toHaveLength(1);
  const [limited = ''] = statements(`${query}\nlimit 5`, 'join');
  expect(limited.match(/join players/g), 'the limit stands before the join of the load').toHaveLength(2);
});
