import { createConnection } from 'mariadb';
import pg from 'pg';
import { readDesign } from '../core/design/index.js';
import { loadRows, type Statement } from '../core/load/index.js';
import type { DialectName } from '../core/notation/index.js';
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
      for (const parents of PARENTS) lines.push(await compare(name, pool, hand, parents));
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

async function compare(name: 'postgres' | 'mariadb', pool: Pool, hand: Hand, parents: number): Promise<string> {
  const kind = name === 'postgres' ? postgresKind : mariadbKind;
  const design = readDesign(LOADS, name);
  const { query } = design.queryOf(`${LOADS_QUERY}\nlimit ${parents}`);
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
    const prepared = preparedPlan(design, planQuery(design.model, query));
    const request = { prepared, rowLimit: 1_000_000 };
    return JSON.stringify((await driveLater(loadRows(design.dialect, request), execute)).rows);
  };
  const byHand = () => loadByHand(hand, parents);
  if ((await ours()) !== (await byHand())) throw new Error(`the two answers differ on ${name}`);
  if (statements !== 3) throw new Error(`${statements} statements instead of 3`);
  const times = await mediansLater({ ours, hand: byHand }, parents > 500 ? 15 : 31);
  taken.release(false);
  return `${design.dialect.title}: a load of ${parents} × 10 × 3 rows by batch: ${(times.ours / times.hand).toFixed(2)} × the same by hand (${times.ours.toFixed(1)} ms against ${times.hand.toFixed(1)} ms), 3 statements each`;
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
