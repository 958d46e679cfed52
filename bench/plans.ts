import type Database from 'better-sqlite3';
import { type Design, readDesign } from '../core/design/index.js';
import { writtenSql } from '../core/load/index.js';
import type { DialectName } from '../core/notation/index.js';
import { planQuery } from '../core/plan/index.js';
import { mariadbPool } from '../engines/mariadb/server.js';
import { postgresPool } from '../engines/postgres/server.js';
import { openDatabase } from '../engines/sqlite/open.js';
import { addressOf } from '../tests/engines.js';
import { preparedPlan } from '../tests/prepared.js';
import { startServers } from '../tools/servers.js';
import { mediansLater } from './measure.js';

const ROWS = 100_000;

const TREE = `entity Branch in branches
  id    integer key
  name  text(40)

entity Room in rooms
  id      integer key
  number  integer

entity Player in players
  id     integer key
  name   text(40)
  email  text(80) unique
  loaned = count(loans)
  keen   = count(loans) > 12
  index (name)

entity Loan in loans
  id      integer key
  due_on  date
  back    date optional
  fee     decimal(8, 2)
  index (due_on)

entity Remark in remarks
  id    integer key
  body  text(80)

entity Ticket in tickets
  code   uuid key
  price  integer

relation home
  Player knows one Branch as branch
  Branch knows many Player as players

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans

relation about
  Remark knows one Room | Player | Loan as about
  each knows many Remark as remarks

scope late
  Loan where back is null and due_on < '2031-01-05'
`;

/** What is asked in the notation, and as somebody would write it by hand. */
const QUERIES: readonly (readonly [query: string, hand: string])[] = [
  [
    'from Remark\nwhere about = Room(4)',
    "select id, body, about_type, about_id from remarks where about_type = 'room' and about_id = 4 order by id",
  ],
  [
    'from Remark\nwhere not about = Room(4)\nlimit 50',
    "select id, body, about_type, about_id from remarks where not (about_type = 'room' and about_id = 4) order by id limit 50",
  ],
  [
    'from Remark\nwhere about in (Room(4), Player(7))',
    "select id, body, about_type, about_id from remarks where (about_type = 'room' and about_id = 4) or (about_type = 'player' and about_id = 7) order by id",
  ],
  [
    'from Remark\nwhere about is a Room\nlimit 50',
    "select id, body, about_type, about_id from remarks where about_type = 'room' order by id limit 50",
  ],
  [
    'from Room\nwhere any(remarks)\nlimit 50',
    "select id, number from rooms where exists (select 1 from remarks where about_type = 'room' and about_id = rooms.id) order by id limit 50",
  ],
  [
    'from Loan\nwhere borrower = Player(77)',
    'select id, due_on, back, fee, borrower_id from loans where borrower_id = 77 order by id',
  ],
  [
    "from Loan\nwhere borrower.name = 'Player 500'",
    "select loans.id, due_on, back, fee, borrower_id from loans join players on players.id = loans.borrower_id where players.name = 'Player 500' order by loans.id",
  ],
  [
    "from Loan\nwhere borrower.branch.name = 'Branch 3'\nlimit 50",
    "select loans.id, due_on, back, fee, borrower_id from loans join players on players.id = loans.borrower_id join branches on branches.id = players.branch_id where branches.name = 'Branch 3' order by loans.id limit 50",
  ],
  [
    'from Loan\norder by borrower.name\nlimit 20',
    'select loans.id, due_on, back, fee, borrower_id from loans join players on players.id = loans.borrower_id order by players.name, loans.id limit 20',
  ],
  [
    'from Player\nwhere any(loans[fee > 99])\nlimit 20',
    'select id, name, email, branch_id from players where exists (select 1 from loans where loans.borrower_id = players.id and fee > 99) order by id limit 20',
  ],
  [
    'from Player\nwhere none(loans)\nlimit 20',
    'select id, name, email, branch_id from players where not exists (select 1 from loans where loans.borrower_id = players.id) order by id limit 20',
  ],
  [
    'from Player\nwhere count(loans) > 10\nlimit 20',
    'select id, name, email, branch_id from players where (select count(*) from loans where loans.borrower_id = players.id) > 10 order by id limit 20',
  ],
  [
    "from Loan\nwhere due_on between '2031-02-01' and '2031-02-02'",
    "select id, due_on, back, fee, borrower_id from loans where due_on between '2031-02-01' and '2031-02-02' order by id",
  ],
  [
    'from Loan\nwhere late\nlimit 50',
    "select id, due_on, back, fee, borrower_id from loans where back is null and due_on < '2031-01-05' order by id limit 50",
  ],
  [
    "from Branch\nwhere any(players.loans[due_on = '2031-03-03'])",
    "select id, name from branches where exists (select 1 from players join loans on loans.borrower_id = players.id where players.branch_id = branches.id and loans.due_on = '2031-03-03') order by id",
  ],
  [
    'from Loan\norder by due_on desc\nlimit 20',
    'select id, due_on, back, fee, borrower_id from loans order by due_on desc, id limit 20',
  ],
  [
    "from Player\nwhere email = 'p500@example.org'",
    "select id, name, email, branch_id from players where email = 'p500@example.org' order by id",
  ],
  [
    'from Loan\nwhere fee + 1 > 99.5\nlimit 20',
    'select id, due_on, back, fee, borrower_id from loans where fee + 1 > 99.5 order by id limit 20',
  ],
  ['from Ticket\nlimit 20', 'select code, price from tickets order by code limit 20'],
  [
    'from Player\nwhere id < 200',
    'select p.id, p.name, p.email, p.branch_id, p.loaned, p.loaned > 12 as keen from (select id, name, email, branch_id, (select count(*) from loans where loans.borrower_id = players.id) as loaned from players where id < 200) p order by p.id',
  ],
];

/** One engine with the rows in it. */
interface Bench {
  readonly name: DialectName;
  readonly design: Design;
  run(sql: string): Promise<readonly unknown[]>;
  close(): Promise<void>;
}

/** Twenty queries over 100,000 rows on three engines: the statement that is made of each against the same written by hand. */
export async function benchPlans(): Promise<string[]> {
  const servers = await startServers();
  const lines: string[] = [];
  try {
    lines.push(...(await longDecimals()));
    for (const open of [sqliteBench, () => serverBench('postgres', servers), () => serverBench('mariadb', servers)]) {
      const bench = await open();
      lines.push(...(await compared(bench)));
      await bench.close();
    }
  } finally {
    await servers.stop();
  }
  return lines;
}

async function compared({ name, design, run }: Bench): Promise<string[]> {
  const ratios: { query: string; ratio: number; ours: number; hand: number }[] = [];
  for (const [query, hand] of QUERIES) {
    const asked = design.queryOf(query).query;
    if (asked === null) throw new Error(`${query} is no query`);
    const sql = writtenSql(preparedPlan(design, planQuery(design.model, asked)), design.dialect);
    const [ours, byHand] = [await run(sql), await run(hand)];
    if (ours.length !== byHand.length) throw new Error(`${name}: ${ours.length} and ${byHand.length} rows\n${sql}\n${hand}`);
    const times = await mediansLater({ ours: () => run(sql), hand: () => run(hand) }, 9);
    // Below a tenth of a millisecond only the way to the server is measured.
    ratios.push({ query, ratio: Math.max(times.ours, 0.1) / Math.max(times.hand, 0.1), ours: times.ours, hand: times.hand });
  }
  ratios.sort((a, b) => b.ratio - a.ratio);
  const middle = ratios[Math.floor(ratios.length / 2)]?.ratio ?? 0;
  const worst = ratios
    .slice(0, 3)
    .map(
      ({ query, ratio, ours, hand }) =>
        `${ratio.toFixed(2)} × for “${query.replaceAll('\n', '; ')}” (${ours.toFixed(2)} ms against ${hand.toFixed(2)} ms)`,
    );
  return [
    `${design.dialect.title}: twenty statements over 100,000 rows: ${middle.toFixed(2)} × the same by hand in the middle; at most ${worst.join(', ')}`,
  ];
}

/** What exactness costs on SQLite: decimals that no double holds, against such as one does. */
async function longDecimals(): Promise<string[]> {
  const design = readDesign('entity Bill in bills\n  id     integer key\n  short  decimal(12, 2)\n  long   decimal(20, 2)\n');
  const db = openDatabase(':memory:', 'make');
  for (const sql of design.dialect.createStatements(design.schema)) db.exec(sql);
  const statement = db.prepare('insert into bills (id, short, long) values (?, ?, ?)');
  db.transaction(() => {
    for (let n = 1; n <= ROWS; n++) statement.run(n, ((n * 7919) % 1_000_000) / 100, (((n * 7919) % 1_000_000) / 100).toFixed(2));
  })();
  const lines: string[] = [];
  for (const [what, clause] of [
    ['compared', 'where FIELD > 9999.5'],
    ['computed with and compared', 'where FIELD * 3 + 1.25 > 29998.5'],
    ['ordered by', 'order by FIELD\nlimit 20'],
    ['sought by its value', 'where FIELD = 12.34'],
  ] as const) {
    const sqlOf = (field: string) => {
      const { query } = design.queryOf(`from Bill\n${clause.replace('FIELD', field)}`);
      if (query === null) throw new Error(`${clause} is no query`);
      return writtenSql(preparedPlan(design, planQuery(design.model, query)), design.dialect);
    };
    const [long, short] = [db.prepare(sqlOf('long')).raw(), db.prepare(sqlOf('short')).raw()];
    if (JSON.stringify(long.all()) !== JSON.stringify(short.all())) throw new Error(`${clause}: the two differ`);
    const times = await mediansLater({ long: async () => long.all(), short: async () => short.all() }, 9);
    lines.push(
      `a decimal of 20 digits on SQLite ${what}, 100,000 rows: ${(times.long / times.short).toFixed(2)} × one of 12 (${times.long.toFixed(1)} ms against ${times.short.toFixed(1)} ms)`,
    );
  }
  db.close();
  return lines;
}

async function sqliteBench(): Promise<Bench> {
  const design = readDesign(TREE);
  const db = openDatabase(':memory:', 'make');
  const { before, after } = design.dialect.steps(design.schema);
  for (const sql of [...before, ...after]) db.exec(sql);
  db.transaction(() => {
    for (const { table, columns, rows } of rowsOf(design.dialect.name)) {
      const statement = db.prepare(`insert into ${table} (${columns.join(', ')}) values (${columns.map(() => '?').join(', ')})`);
      for (const row of rows) statement.run(...row);
    }
  })();
  db.exec('analyze');
  const prepared = new Map<string, Database.Statement>();
  return {
    name: 'sqlite',
    design,
    run: async (sql) => {
      const statement = prepared.get(sql) ?? db.prepare(sql).raw();
      prepared.set(sql, statement);
      return statement.all();
    },
    close: async () => {
      db.close();
    },
  };
}

async function serverBench(name: 'postgres' | 'mariadb', servers: Awaited<ReturnType<typeof startServers>>): Promise<Bench> {
  const design = readDesign(TREE, name);
  const address = addressOf(servers[name]);
  const open = name === 'postgres' ? postgresPool : mariadbPool;
  const admin = open(address, servers.password, null, 120_000);
  const setup = await admin.acquire();
  await setup.query('create database plans');
  setup.release(false);
  await admin.close();
  const pool = open({ ...address, database: 'plans' }, servers.password, null, 120_000);
  const taken = await pool.acquire();
  const { before, after } = design.dialect.steps(design.schema);
  for (const sql of before) await taken.query(sql);
  for (const { table, columns, rows } of rowsOf(name)) {
    for (let from = 0; from < rows.length; from += 1000) {
      let number = 0;
      const chunk = rows.slice(from, from + 1000);
      const list = chunk.map((row) => `(${row.map(() => (name === 'postgres' ? `$${++number}` : '?')).join(', ')})`);
      await taken.query(`insert into ${table} (${columns.join(', ')}) values ${list.join(', ')}`, chunk.flat());
    }
  }
  for (const sql of after) await taken.query(sql);
  for (const { table } of rowsOf(name)) await taken.query(name === 'postgres' ? `analyze ${table}` : `analyze table ${table}`);
  return {
    name,
    design,
    run: (sql) => taken.query(sql),
    close: async () => {
      taken.release(false);
      await pool.close();
    },
  };
}

interface Rows {
  readonly table: string;
  readonly columns: readonly string[];
  readonly rows: readonly (readonly (string | number | null)[])[];
}

function rowsOf(_name: DialectName): Rows[] {
  const count = (rows: number, row: (number: number) => readonly (string | number | null)[]) =>
    Array.from({ length: rows }, (_, at) => row(at + 1));
  const day = (number: number) =>
    `2031-${String(1 + (number % 12)).padStart(2, '0')}-${String(1 + (number % 28)).padStart(2, '0')}`;
  const uuid = (number: number) => {
    const mixed = (number * 2_654_435_761) % 4_294_967_296;
    return `${mixed.toString(16).padStart(8, '0')}-0000-4000-8000-${number.toString(16).padStart(12, '0')}`;
  };
  return [
    { table: 'branches', columns: ['id', 'name'], rows: count(50, (n) => [n, `Branch ${n}`]) },
    { table: 'rooms', columns: ['id', 'number'], rows: count(1000, (n) => [n, n]) },
    {
      table: 'players',
      columns: ['id', 'name', 'email', 'branch_id'],
      rows: count(10_000, (n) => [n, `Player ${n}`, `p${n}@example.org`, 1 + (n % 50)]),
    },
    {
      table: 'loans',
      columns: ['id', 'due_on', 'back', 'fee', 'borrower_id'],
      rows: count(ROWS, (n) => [n, day(n), n % 3 === 0 ? null : day(n + 1), (n % 10_000) / 100, 1 + ((n * 7919) % 9_500)]),
    },
    {
      table: 'remarks',
      columns: ['id', 'body', 'about_type', 'about_id'],
      rows: count(ROWS, (n) => [n, `Remark ${n}`, ['room', 'player', 'loan'][n % 3] ?? 'room', 1 + (n % 1000)]),
    },
    { table: 'tickets', columns: ['code', 'price'], rows: count(ROWS, (n) => [uuid(n), n % 90]) },
  ];
}
