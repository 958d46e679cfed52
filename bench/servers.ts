import { createConnection } from 'mariadb';
import pg from 'pg';
import { readDesign } from '../core/design/index.js';
import { loadRows, type Statement } from '../core/load/index.js';
import type { DialectName, LoadWay } from '../core/notation/index.js';
import { planQuery } from '../core/plan/index.js';
import { driveLater } from '../engines/index.js';
import { mariadbKind } from '../engines/mariadb/kind.js';
import { mariadbPool } from '../engines/mariadb/server.js';
import { postgresKind } from '../engines/postgres/kind.js';
import { postgresPool } from '../engines/postgres/server.js';
import type { Pool } from '../engines/server/pool.js';
import { addressOf } from '../tests/engines.js';
import { preparedPlan } from '../tests/prepared.js';
import { startServers } from '../tools/servers.js';
import { LOADS, LOADS_QUERY } from './loads-tree.js';
import { mediansLater } from './measure.js';

const PARENTS = [10, 100, 500, 2000];

type HandRow = Record<string, unknown>;

/** One way to ask a server by hand, with the driver as its manual says. */
interface Hand {
  rows(sql: string, keys?: readonly unknown[]): Promise<readonly HandRow[]>;
  /** The condition on a column, for keys bound as one list. */
  among(column: string): string;
  close(): Promise<void>;
}

/** Batched loads on real servers against the same written by hand: the best shape of SQL, the same number of statements. */
export async function benchServers(): Promise<string[]> {
  const servers = await startServers();
  const lines: string[] = [];
  try {
    const { password } = servers;
    for (const name of ['postgres', 'mariadb'] as const) {
      const address = addressOf(servers[name]);
      const admin =
        name === 'postgres' ? postgresPool(address, password, null, 60_000) : mariadbPool(address, password, null, 60_000);
      const setup = await admin.acquire();
      await setup.query('create database loads');
      setup.release(false);
      await admin.close();
      const own = { ...address, database: 'loads' };
      const pool = name === 'postgres' ? postgresPool(own, password, null, 60_000) : mariadbPool(own, password, null, 60_000);
      const hand = name === 'postgres' ? await postgresByHand(own, password) : await mariadbByHand(own, password);
      await fill(pool, name);
      for (const parents of PARENTS)
        lines.push(await compare({ name, pool, parents, way: 'batch' }, () => loadByHand(hand, parents)));
      for (const parents of [10, 500])
        for (const [way, byHand] of [
          ['join', joinedByHand],
          ['json', nestedByHand],
          ['batch', limitedByHand],
        ] as const)
          lines.push(
            await compare({ name, pool, parents, way, limited: byHand === limitedByHand }, () => byHand(name, hand, parents)),
          );
      await hand.close();
      await pool.close();
    }
  } finally {
    await servers.stop();
  }
  return lines;
}

async function fill(pool: Pool, name: DialectName): Promise<void> {
  const { schema, dialect } = readDesign(LOADS, name);
  const taken = await pool.acquire();
  const put = async (table: string, columns: number, rows: readonly (readonly (string | number)[])[]) => {
    for (let from = 0; from < rows.length; from += 500) {
      const chunk = rows.slice(from, from + 500);
      let number = 0;
      const list = chunk.map(
        () => `(${Array.from({ length: columns }, () => (name === 'postgres' ? `$${++number}` : '?')).join(', ')})`,
      );
      await taken.query(`insert into ${table} values ${list.join(', ')}`, chunk.flat());
    }
  };
  const { before, after } = dialect.steps(schema);
  for (const sql of before) await taken.query(sql);
  const count = (rows: number, row: (number: number) => readonly (string | number)[]) =>
    Array.from({ length: rows }, (_, at) => row(at + 1));
  await put(
    'players',
    3,
    count(2000, (p) => [p, `Player ${p}`, `Town ${p % 40}`]),
  );
  await put(
    'loans',
    4,
    count(20_000, (l) => [l, `2031-0${1 + (l % 9)}-1${l % 10}`, `A note on loan ${l}`, 1 + (l % 2000)]),
  );
  await put(
    'remarks',
    3,
    count(60_000, (r) => [r, `Remark number ${r}`, 1 + (r % 20_000)]),
  );
  for (const sql of after) await taken.query(sql);
  for (const table of ['players', 'loans', 'remarks'])
    await taken.query(name === 'postgres' ? `analyze ${table}` : `analyze table ${table}`);
  taken.release(false);
}

interface Compared {
  readonly name: 'postgres' | 'mariadb';
  readonly pool: Pool;
  readonly parents: number;
  readonly way: LoadWay;
  /** Three loans of each player, instead of all with their remarks. */
  readonly limited?: boolean;
}

async function compare({ name, pool, parents, way, limited = false }: Compared, byHand: () => Promise<string>): Promise<string> {
  const kind = name === 'postgres' ? postgresKind : mariadbKind;
  const design = readDesign(LOADS, name);
  const { query } = design.queryOf(
    `${limited ? 'from Player\nload loans order by due_on limit 3' : LOADS_QUERY}\nlimit ${parents}`,
  );
  if (query === null) throw new Error('the query does not stand');
  const taken = await pool.acquire();
  let statements = 0;
  const execute = async ({ sent, parameters }: Statement) => {
    statements += 1;
    const started = performance.now();
    const { sql, values } = kind.positional(sent, parameters);
    return { rows: await taken.query(sql, values), milliseconds: performance.now() - started, steps: [], refused: null };
  };
  const ours = async () => {
    const prepared = preparedPlan(design, planQuery(design.model, query), { way });
    const request = { prepared, rowLimit: 1_000_000 };
    return JSON.stringify((await driveLater(loadRows(design.dialect, request), execute)).rows);
  };
  if ((await ours()) !== (await byHand())) throw new Error(`the two answers differ on ${name}, by ${way}`);
  const wanted = way === 'batch' ? (limited ? 2 : 3) : 1;
  if (statements !== wanted) throw new Error(`${statements} statements instead of ${wanted}`);
  const times = await mediansLater({ ours, hand: byHand }, parents > 500 ? 15 : 31);
  taken.release(false);
  const what = limited ? `3 loans of each of ${parents} players` : `a load of ${parents} × 10 × 3 rows by ${way}`;
  return `${design.dialect.title}: ${what}: ${(times.ours / times.hand).toFixed(2)} × the same by hand (${times.ours.toFixed(1)} ms against ${times.hand.toFixed(1)} ms)`;
}

/** All in one statement of two left joins, told apart by their keys. */
async function joinedByHand(_name: string, hand: Hand, parents: number): Promise<string> {
  const lines =
    await hand.rows(`select p.id, p.name, p.town, l.id as loan, l.due_on, l.memo, l.borrower_id, r.id as remark, r.body, r.loan_id
    from (select id, name, town from players order by id limit ${parents}) p left join loans l on l.borrower_id = p.id
    left join remarks r on r.loan_id = l.id order by p.id, l.id, r.id`);
  const players: HandRow[] = [];
  let loans: HandRow[] = [];
  let remarks: HandRow[] = [];
  let player: unknown = null;
  let known: unknown = null;
  for (const { id, name, town, loan, due_on, memo, borrower_id, remark, body, loan_id } of lines) {
    if (id !== player) {
      loans = [];
      known = null;
      players.push({ id, name, town, loans });
      player = id;
    }
    if (loan === null) continue;
    if (loan !== known) {
      remarks = [];
      loans.push({ id: loan, due_on, memo, borrower_id, remarks });
      known = loan;
    }
    if (remark !== null) remarks.push({ id: remark, body, loan_id });
  }
  return JSON.stringify(players);
}

/** All in one statement, lists as JSON: each server in the shape that it is quickest at. */
async function nestedByHand(name: string, hand: Hand, parents: number): Promise<string> {
  const sql =
    name === 'postgres'
      ? `select p.id, p.name, p.town, (
           select coalesce(json_agg(json_build_object('id', l.id, 'due_on', l.due_on, 'memo', l.memo, 'borrower_id', l.borrower_id, 'remarks', (
             select coalesce(json_agg(json_build_object('id', r.id, 'body', r.body, 'loan_id', r.loan_id) order by r.id), '[]')
             from remarks r where r.loan_id = l.id)) order by l.id), '[]') from loans l where l.borrower_id = p.id)::text as loans
         from players p order by p.id limit ${parents}`
      : `select p.id, p.name, p.town, coalesce(k.list, '[]') as loans
         from (select id, name, town from players order by id limit ${parents}) p left join (
           select l.borrower_id, json_arrayagg(json_object('id', l.id, 'due_on', l.due_on, 'memo', l.memo, 'borrower_id', l.borrower_id,
             'remarks', coalesce(n.list, json_array())) order by l.id) as list
           from loans l left join (
             select r.loan_id, json_arrayagg(json_object('id', r.id, 'body', r.body, 'loan_id', r.loan_id) order by r.id) as list
             from remarks r join loans o on o.id = r.loan_id
             where o.borrower_id in (select id from (select id from players order by id limit ${parents}) c) group by r.loan_id
           ) n on n.loan_id = l.id
           where l.borrower_id in (select id from (select id from players order by id limit ${parents}) c) group by l.borrower_id
         ) k on k.borrower_id = p.id order by p.id`;
  const rows = await hand.rows(sql);
  return JSON.stringify(
    rows.map(({ id, name: called, town, loans }) => ({ id, name: called, town, loans: JSON.parse(String(loans)) as unknown })),
  );
}

/** Three loans of each player: by a lateral join, or by their numbers. */
async function limitedByHand(name: string, hand: Hand, parents: number): Promise<string> {
  const players = await hand.rows(`select id, name, town from players order by id limit ${parents}`);
  const columns = 'id, due_on, memo, borrower_id';
  const loans = await hand.rows(
    name === 'postgres'
      ? `select l.* from unnest($1::int[]) o (id) cross join lateral (
           select ${columns} from loans where borrower_id = o.id order by due_on, id limit 3) l order by borrower_id, due_on, id`
      : `select ${columns} from (
           select ${columns}, row_number() over (partition by borrower_id order by due_on, id) as place from loans where ${hand.among('borrower_id')}
         ) l where place <= 3 order by borrower_id, due_on, id`,
    players.map(({ id }) => id),
  );
  stitch(players, 'loans', loans, 'borrower_id');
  return JSON.stringify(players);
}

async function loadByHand(hand: Hand, parents: number): Promise<string> {
  const players = await hand.rows(`select id, name, town from players order by id limit ${parents}`);
  const loans = await hand.rows(
    `select id, due_on, memo, borrower_id from loans where ${hand.among('borrower_id')} order by borrower_id, id`,
    players.map(({ id }) => id),
  );
  const remarks = await hand.rows(
    `select id, body, loan_id from remarks where ${hand.among('loan_id')} order by loan_id, id`,
    loans.map(({ id }) => id),
  );
  stitch(loans, 'remarks', remarks, 'loan_id');
  stitch(players, 'loans', loans, 'borrower_id');
  return JSON.stringify(players);
}

function stitch(owners: readonly HandRow[], role: string, children: readonly HandRow[], key: string): void {
  const groups = new Map<unknown, HandRow[]>();
  for (const child of children) {
    const group = groups.get(child[key]);
    if (group === undefined) groups.set(child[key], [child]);
    else group.push(child);
  }
  for (const owner of owners) owner[role] = groups.get(owner.id) ?? [];
}

async function postgresByHand(address: ReturnType<typeof addressOf>, password: string): Promise<Hand> {
  const client = new pg.Client({
    host: address.host,
    port: address.port,
    user: address.user,
    database: address.database,
    password,
  });
  client.on('error', () => null);
  await client.connect();
  // Dates as text, as the answer has them.
  pg.types.setTypeParser(pg.types.builtins.DATE, (text) => text);
  return {
    rows: async (sql, keys) => (await client.query<HandRow>(sql, keys === undefined ? [] : [keys])).rows,
    among: (column) => `${column} = any($1::int[])`,
    close: () => client.end(),
  };
}

async function mariadbByHand(address: ReturnType<typeof addressOf>, password: string): Promise<Hand> {
  const connection = await createConnection({
    host: address.host,
    port: address.port,
    user: address.user,
    database: address.database,
    password,
    dateStrings: true,
  });
  return {
    rows: async (sql, keys) => (await connection.query<HandRow[]>(sql, keys === undefined ? [] : [keys])) as HandRow[],
    among: (column) => `${column} in (?)`,
    close: () => connection.end(),
  };
}
