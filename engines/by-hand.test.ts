import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import type { LoadWay } from '../core/notation/index.js';
import { runQuery } from '../services/index.js';
import { type EngineName, type Engines, type MadeTree, makeOn, openEngines } from '../tests/engines.js';
import { rawRows } from './raw-rows.js';

/** A library whose rows lie unevenly: one branch has nearly all players, two players most loans, and much is not known. */
const TEXT = `entity Branch in branches
  id    integer key
  name  text(80)
  town  text(80) optional

entity Player in players
  id     integer key
  name   text(80)
  email  text(120) optional unique

entity Instrument in instruments
  id     integer key
  name   text(80)
  worth  decimal(9, 2) optional

entity Loan in loans
  id           integer key
  lent_on      date
  due_on       date optional
  returned_on  date optional

entity Tag in tags
  id    integer key
  word  text(40)

relation membership
  Player knows one Branch as branch
  Branch knows many Player as players

relation mentoring
  Player knows at most one Player as mentor
  Player knows many Player as pupils

relation keeping
  Instrument knows at most one Branch as branch
  Branch knows many Instrument as instruments

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans

relation lending
  Loan knows one Instrument as instrument
  Instrument knows many Loan as loans

relation tagging
  Instrument knows many Tag as tags
  Tag knows many Instrument as instruments
  stored in table taggings (instrument_id, tag_id)
    weight  integer optional

sample Branch 0
sample Player 0
sample Instrument 0
sample Loan 0
sample Tag 0
`;

const text = (value: string | null) => (value === null ? 'null' : `'${value}'`);
const range = (count: number) => Array.from({ length: count }, (_, index) => index + 1);
const day = (number: number) =>
  `2031-${String((number % 6) + 1).padStart(2, '0')}-${String(((number * 7) % 28) + 1).padStart(2, '0')}`;

/** The rows, as statements that every engine reads. */
const ROWS: readonly string[] = [
  ...['North Quay', 'South Gate', 'Mill Lane', 'Kiln Row', 'Hill Chapel'].map(
    (name, index) =>
      `insert into branches (id, name, town) values (${index + 1}, '${name}', ${text(index % 2 === 0 ? 'Ferren' : null)})`,
  ),
  ...range(60).map((id) => {
    const mentor = id % 3 === 0 || id < 5 ? 'null' : Math.ceil(id / 4);
    const email = id % 4 === 0 ? null : `p${id}@example.org`;
    return `insert into players (id, name, email, branch_id, mentor_id) values (${id}, 'Player ${id % 17}', ${text(email)}, ${id % 10 < 8 ? 1 : (id % 3) + 2}, ${mentor})`;
  }),
  ...range(40).map((id) => {
    const worth = id % 5 === 0 ? 'null' : `${(id * 37) % 500}.50`;
    return `insert into instruments (id, name, worth, branch_id) values (${id}, 'Instrument ${id % 9}', ${worth}, ${id % 6 === 0 ? 'null' : (id % 4) + 1})`;
  }),
  ...range(400).map((id) => {
    const borrower = id % 2 === 0 ? 1 : id % 4 === 1 ? 2 : (id % 60) + 1;
    const due = id % 7 === 0 ? null : day(id + 31);
    return `insert into loans (id, lent_on, due_on, returned_on, borrower_id, instrument_id) values (${id}, '${day(id)}', ${text(due)}, ${text(id % 3 === 0 ? null : day(id + 40))}, ${borrower}, ${id % 11 === 0 ? 40 : (id % 39) + 1})`;
  }),
  ...['loud', 'frail', 'old', 'new', 'heavy', 'rare'].map(
    (word, index) => `insert into tags (id, word) values (${index + 1}, '${word}')`,
  ),
  ...range(40).flatMap((id) =>
    range(id % 4).map(
      (tag) =>
        `insert into taggings (instrument_id, tag_id, weight) values (${id}, ${tag}, ${(id + tag) % 3 === 0 ? 'null' : id + tag})`,
    ),
  ),
];

type Row = Readonly<Record<string, unknown>>;

interface ByHand {
  readonly query: string;
  readonly sql: string;
  /** The lines that the hand-written SQL gives, out of one root row; where it is left out, what the query shows. */
  readonly lines?: (row: Row) => readonly (readonly unknown[])[];
}

const kin = (row: Row, name: string): readonly Row[] => row[name] as readonly Row[];

const QUERIES: readonly ByHand[] = [
  {
    query: 'from Player\nshow id, email\norder by email',
    sql: 'select id, email from players order by email is not null, email, id',
  },
  {
    query: "from Loan\nwhere borrower.branch.name = 'North Quay' and instrument.worth > 100\nshow id\norder by id",
    sql: `select l.id from loans l join players p on p.id = l.borrower_id join branches b on b.id = p.branch_id
      join instruments i on i.id = l.instrument_id where b.name = 'North Quay' and i.worth > 100 order by l.id`,
  },
  {
    query: 'from Loan\nwhere not (instrument.worth > 100)\nshow id\norder by id',
    sql: 'select l.id from loans l join instruments i on i.id = l.instrument_id where i.worth <= 100 order by l.id',
  },
  {
    query: "from Player\nwhere any(loans[returned_on is null and due_on < '2031-04-01'])\nshow id\norder by id",
    sql: `select id from players where id in (select borrower_id from loans where returned_on is null and due_on < '2031-04-01') order by id`,
  },
  {
    query: 'from Player\nwhere none(loans[due_on is null])\nshow id\norder by id',
    sql: `select p.id from players p left join loans l on l.borrower_id = p.id and l.due_on is null where l.id is null order by p.id`,
  },
  {
    query: 'from Player\nwhere any(loans) and all(loans[returned_on > lent_on])\nshow id\norder by id',
    sql: `select p.id from players p join loans l on l.borrower_id = p.id group by p.id
      having sum(case when l.returned_on > l.lent_on then 1 else 0 end) = count(*) order by p.id`,
  },
  {
    query: 'from Player\nwhere count(loans) > 6\nshow name, count(loans) as n\norder by id',
    sql: `select p.name, count(*) from players p join loans l on l.borrower_id = p.id group by p.id, p.name having count(*) > 6 order by p.id`,
  },
  {
    query: 'from Player\nshow id, sum(loans.instrument.worth) as worth\norder by id',
    sql: `select p.id, (select sum(i.worth) from instruments i where i.id in (select l.instrument_id from loans l where l.borrower_id = p.id))
      from players p order by p.id`,
  },
  {
    query:
      'from Branch\nshow name, avg(instruments.worth) as mean, min(instruments.worth) as least, max(instruments.worth) as most\norder by id',
    sql: `select b.name, avg(i.worth * 1.000000000000), min(i.worth), max(i.worth) from branches b left join instruments i on i.branch_id = b.id
      group by b.id, b.name order by b.id`,
  },
  {
    query: 'from Instrument\ngroup by branch.name\nshow branch.name as place, count(*) as n, sum(worth) as worth\norder by place',
    sql: `select b.name, count(*), sum(i.worth) from instruments i left join branches b on b.id = i.branch_id
      group by b.name order by b.name is not null, b.name`,
  },
  {
    query:
      'from Loan\ngroup by borrower\nshow borrower as who, count(*) as n, count(returned_on) as back\nhaving n > 4\norder by n desc, who',
    sql: `select borrower_id, count(*), count(returned_on) from loans group by borrower_id having count(*) > 4
      order by count(*) desc, borrower_id`,
  },
  {
    query:
      'from Loan\ngroup by borrower.branch, due_on is null\nshow borrower.branch as branch, due_on is null as open, count(*) as n\norder by branch, open',
    sql: `select p.branch_id, l.due_on is null, count(*) from loans l join players p on p.id = l.borrower_id
      group by p.branch_id, l.due_on is null order by p.branch_id, l.due_on is null`,
  },
  {
    query: 'from Instrument\nshow distinct branch.town as town\norder by town',
    sql: `select t.town from (select distinct b.town from instruments i left join branches b on b.id = i.branch_id) t
      order by t.town is not null, t.town`,
  },
  {
    query: 'from Loan\nwhere due_on is null\nshow count(*) as n, min(lent_on) as first_of_them, max(returned_on) as last_back',
    sql: 'select count(*), min(lent_on), max(returned_on) from loans where due_on is null',
  },
  {
    query: 'from Branch\nload players (name) order by name desc, id limit 2\norder by id',
    sql: `select b.id, r.id, r.name from branches b left join (
        select id, name, branch_id, row_number() over (partition by branch_id order by name desc, id) as place from players
      ) r on r.branch_id = b.id and r.place <= 2 order by b.id, r.place`,
    lines: (row) =>
      kin(row, 'players').length === 0 ? [[row.id, null, null]] : kin(row, 'players').map(({ id, name }) => [row.id, id, name]),
  },
  {
    query: `from Player
where mentor is null and any(loans[returned_on is null])
load loans (lent_on) where returned_on is null order by lent_on desc, id limit 3
  instrument (name)
order by id`,
    sql: `select r.borrower_id, r.id, r.lent_on, i.name from (
        select l.*, row_number() over (partition by borrower_id order by lent_on desc, l.id) as place from loans l
        join players p on p.id = l.borrower_id where p.mentor_id is null and l.returned_on is null
      ) r join instruments i on i.id = r.instrument_id where r.place <= 3 order by r.borrower_id, r.place`,
    lines: (row) => kin(row, 'loans').map(({ id, lent_on, instrument }) => [row.id, id, lent_on, (instrument as Row).name]),
  },
  {
    query: `from Player
where any(loans[returned_on is null])
load loans (lent_on) where returned_on is null order by lent_on, id limit 2
  instrument (name)
    tags (word) order by word
order by name desc, id
limit 7
offset 3`,
    sql: `select p.id, r.id, r.lent_on, i.name, (select count(*) from taggings g where g.instrument_id = i.id) from (
        select id, name from players where id in (select borrower_id from loans where returned_on is null)
        order by name desc, id limit 7 offset 3
      ) p join (
        select l.*, row_number() over (partition by borrower_id order by lent_on, id) as place from loans l where returned_on is null
      ) r on r.borrower_id = p.id and r.place <= 2 join instruments i on i.id = r.instrument_id order by p.name desc, p.id, r.place`,
    lines: (row) =>
      kin(row, 'loans').map(({ id, lent_on, instrument }) => {
        const { name, tags } = instrument as Row;
        return [row.id, id, lent_on, name, (tags as readonly Row[]).length];
      }),
  },
  {
    query: 'from Instrument\nload tags (word, taggings.weight) order by word\norder by id',
    sql: `select i.id, t.word, g.weight from instruments i join taggings g on g.instrument_id = i.id join tags t on t.id = g.tag_id
      order by i.id, t.word`,
    lines: (row) => kin(row, 'tags').map(({ word, taggings }) => [row.id, word, (taggings as Row).weight]),
  },
  {
    query: `from Instrument
show id, case when worth is null then 'unknown' when worth > 200 then 'dear' else 'cheap' end as class, coalesce(branch.name, 'nowhere') as place
order by id`,
    sql: `select i.id, case when i.worth is null then 'unknown' when i.worth > 200 then 'dear' else 'cheap' end, coalesce(b.name, 'nowhere')
      from instruments i left join branches b on b.id = i.branch_id order by i.id`,
  },
  {
    query: 'from Instrument\nshow id, worth\norder by worth desc, id\nlimit 9\noffset 26',
    sql: 'select id, worth from instruments order by worth is not null desc, worth desc, id limit 9 offset 26',
  },
  {
    query: 'from Player\nwhere mentor.mentor is not null\nshow name, mentor.name as mentor, count(pupils) as pupils\norder by id',
    sql: `select p.name, m.name, (select count(*) from players q where q.mentor_id = p.id) from players p join players m on m.id = p.mentor_id
      where m.mentor_id is not null order by p.id`,
  },
  {
    query:
      'from Loan\nshow id, borrower[email is not null].name as known, instrument[worth > 200].branch.name as dear\norder by id',
    sql: `select l.id, case when p.email is not null then p.name end, case when i.worth > 200 then b.name end from loans l
      join players p on p.id = l.borrower_id join instruments i on i.id = l.instrument_id left join branches b on b.id = i.branch_id
      order by l.id`,
  },
  {
    query: "from Player\nwhere not (mentor = Player[email = 'p2@example.org'])\nshow id\norder by id",
    sql: `select p.id from players p join players m on m.id = p.mentor_id where m.email is null or m.email <> 'p2@example.org' order by p.id`,
  },
  {
    query:
      "from Loan\nwhere borrower <> Player[email = 'p2@example.org'] and instrument in (Instrument(3), Instrument[id = 40])\nshow id\norder by id",
    sql: `select l.id from loans l join players p on p.id = l.borrower_id where (p.email is null or p.email <> 'p2@example.org') and l.instrument_id in (3, 40) order by l.id`,
  },
];

const NAMES: readonly EngineName[] = ['sqlite', 'postgres', 'mariadb'];
const WAYS: readonly LoadWay[] = ['batch', 'join', 'json', 'row'];

let engines: Engines;
const trees: MadeTree[] = [];
beforeAll(async () => {
  engines = openEngines(inject('servers'));
  for (const name of NAMES) {
    const tree = await makeOn(engines, name, TEXT);
    trees.push(tree);
    const filled = await tree.database.engine.execute(ROWS);
    if (!filled.ok) throw new Error(filled.problem.message);
  }
}, 600_000);
afterAll(async () => {
  for (const { database } of trees) await database.remove();
  await engines.close();
});

test.each(QUERIES)('$query\nis what the SQL by hand gives, on each engine and in each way', async ({ query, sql, lines }) => {
  for (const { name, design, database } of trees) {
    const read = await rawRows(database.engine, sql);
    if (!read.ok) throw new Error(`${name}: ${read.problem.message}`);
    const expected = read.value.map((row) => row.map(plain));
    expect(expected.length).toBeGreaterThan(0);
    for (const way of lines === undefined ? [null] : WAYS) {
      const outcome = await runQuery(design, database.engine, {
        query: { kind: 'text', text: query, parameters: [] },
        parameters: {},
        sampleKeys: {},
        madeHere: true,
        rowLimit: 10_000,
        ...(way === null ? {} : { way }),
      });
      if (!outcome.ok)
        throw new Error(`${name}: ${[...outcome.findings.map(({ message }) => message), ...outcome.problems].join('\n')}`);
      const rows = JSON.parse(outcome.answer.text) as readonly Row[];
      const answered = rows.flatMap((row) => lines?.(row) ?? [Object.values(row)]).map((line) => line.map(plain));
      expect(answered, `${name}, by ${way}`).toEqual(expected);
    }
  }
});

/** A value whatever a driver has for it: numbers to twelve digits, truth as a number. */
function plain(value: unknown): unknown {
  if (value === true || value === 't') return 1;
  if (value === false || value === 'f') return 0;
  if (typeof value === 'bigint') return Number(value);
  const number = typeof value === 'number' || (typeof value === 'string' && /^-?\d+(\.\d+)?$/.test(value)) ? Number(value) : null;
  return number === null ? value : Number(number.toPrecision(12));
}
