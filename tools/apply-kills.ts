/**
 * Ends `apply` at random moments on each engine: `npm run apply-kills -- --rounds 300`. On SQLite and PostgreSQL a database is then as
 * it was before, or as it is after; on MariaDB that holds once the plan is finished or taken back, whichever the round asks for. No
 * row may be lost.
 */
import { execFileSync, spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { copyFileSync, existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readDesign } from '../core/design/index.js';
import { type Engine, openMariadb, openPostgres, openSqlite } from '../engines/index.js';
import { rawRows } from '../engines/raw-rows.js';
import { fillDatabase } from '../services/index.js';
import { addressOf, type EngineName } from '../tests/engines.js';
import { startServers } from './servers.js';

const rounds = Number(process.argv[process.argv.indexOf('--rounds') + 1] || 30);
const folder = mkdtempSync(join(tmpdir(), 'family-tree-apply-kills-'));
const text = (town: string, rest: string) => `tree 'Kills'

entity Branch in branches
  id    integer key
  name  text(40)
${town}

entity Player in players
  id      integer key
  name    text(60)
${rest}

relation home
  Player knows one Branch as branch
  Branch knows many Player as players
  on delete cascade

sample Branch 40
sample Player 4000
`;
const BEFORE = text('  town  text(40) optional', '  remark  text(60) optional');
const AFTER = text('  town  text(60)\n  shelf integer default 3', '  motto  text(20)');
const ANSWERS = "column players.motto is new\nvalue branches.town = 'Ferren'\nvalue players.motto = 'by hand'\n";
writeFileSync(join(folder, 'after.kin'), AFTER);
writeFileSync(join(folder, 'said.answers'), ANSWERS);

const servers = await startServers();
const { password } = servers;
const chance = (most: number) => Math.floor(Math.random() * most);
const env = { ...process.env, FAMILY_TREE_PASSWORD: password };
const cli = (...args: string[]) => execFileSync('node', ['dist/cli/main.js', ...args], { env, encoding: 'utf8', stdio: 'pipe' });

/** A database of one engine, with rows, and how it is named to the command line. */
interface Fresh {
  readonly named: string;
  readonly engine: Engine;
  remove(): Promise<void>;
}

async function fresh(name: EngineName): Promise<Fresh> {
  const place = `kills_${randomUUID().replaceAll('-', '').slice(0, 10)}`;
  if (name === 'sqlite') {
    const path = join(folder, `${place}.db`);
    copyFileSync(join(folder, 'before.db'), path);
    const engine = openSqlite({ path, mode: 'look', milliseconds: 60_000 });
    return { named: path, engine, remove: () => engine.close() };
  }
  const written = name === 'postgres' ? servers.postgres : servers.mariadb;
  const address = addressOf(written);
  const access = { address, password, place: null, label: name, milliseconds: 60_000 };
  const admin = name === 'postgres' ? openPostgres(access) : openMariadb(access);
  const own = { ...access, address: { ...address, database: place } };
  const make =
    name === 'postgres'
      ? `create database ${place} template template0 encoding 'UTF8' lc_collate 'C' lc_ctype 'C'`
      : `create database ${place} character set utf8mb4 collate utf8mb4_nopad_bin`;
  const made = await admin.execute([make]);
  if (!made.ok) throw new Error(made.problem.message);
  const engine = name === 'postgres' ? openPostgres(own) : openMariadb(own);
  const filled = await fillDatabase(readDesign(BEFORE, engine.dialect), engine);
  if (!filled.ok) throw new Error(filled.problem.message);
  return {
    named: `${name}://${address.user}@${address.host}:${address.port}/${place}`,
    engine,
    remove: async () => {
      await engine.close();
      await admin.execute([`drop database ${place}${name === 'postgres' ? ' with (force)' : ''}`]);
      await admin.close();
    },
  };
}

async function read(engine: Engine, sql: string): Promise<string> {
  const rows = await rawRows(engine, sql);
  return rows.ok ? JSON.stringify(rows.value.map((row) => row.map(String))) : `! ${rows.problem.message}`;
}

/** Whether a database is as before or as after: its rows, and what a plan has to say of it. */
async function standing({ engine, named }: Fresh): Promise<'before' | 'after' | string> {
  const players = await read(engine, 'select count(*), count(distinct branch_id), min(name), max(name) from players');
  const remarks = await read(engine, 'select count(remark) from players');
  const mottos = await read(engine, "select count(*) from players where motto = 'by hand'");
  const told = (() => {
    try {
      return cli('plan', join(folder, 'after.kin'), named, '--answers', join(folder, 'said.answers'));
    } catch (error) {
      return String((error as { stdout?: string }).stdout) + String((error as { stderr?: string }).stderr);
    }
  })();
  const isAfter = told.startsWith('Nothing to do');
  const isBefore = told.includes('players.remark goes') && told.includes('players.motto is new');
  if (isAfter && mottos === '[["4000"]]' && remarks.startsWith('!')) return `after ${players}`;
  if (isBefore && mottos.startsWith('!') && !remarks.startsWith('!')) return `before ${players}`;
  return `neither: ${players} ${remarks} ${mottos}\n${told}`;
}

/** Whether a plan is being carried out. */
async function hasBegun(name: EngineName, { engine, named }: Fresh): Promise<boolean> {
  switch (name) {
    case 'sqlite':
      return existsSync(`${named}-journal`) || existsSync(`${named}.before-1`);
    case 'postgres': {
      const locks = await read(
        engine,
        "select count(*) from pg_locks where locktype = 'advisory' and database = (select oid from pg_database where datname = current_database())",
      );
      return locks !== '[["0"]]';
    }
    default:
      return !(await read(engine, 'select 1 from family_tree_applying')).startsWith('!');
  }
}

const sample = openSqlite({ path: join(folder, 'before.db'), mode: 'make', milliseconds: 60_000 });
const sampled = await fillDatabase(readDesign(BEFORE, 'sqlite'), sample);
if (!sampled.ok) throw new Error(sampled.problem.message);
await sample.close();

const ENGINES: readonly EngineName[] = ['sqlite', 'postgres', 'mariadb'];
const told = new Map<string, number>();
const count = (what: string) => told.set(what, (told.get(what) ?? 0) + 1);
/** How long it takes from its beginning to its end, in milliseconds, by engine: found out first, so that the moments lie within it. */
const whole = new Map<EngineName, number>();
let bad = 0;

for (let round = 0; round < rounds + ENGINES.length; round++) {
  const name = ENGINES[round % ENGINES.length] ?? 'sqlite';
  const database = await fresh(name);
  const expected = /\[\[.*\]\]/.exec(
    await read(database.engine, 'select count(*), count(distinct branch_id), min(name), max(name) from players'),
  )?.[0];
  const args = [
    'apply',
    join(folder, 'after.kin'),
    database.named,
    '--answers',
    join(folder, 'said.answers'),
    '--name',
    'killed',
    '--allow-loss',
  ];
  const child = spawn('node', ['dist/cli/main.js', ...args], { env, stdio: 'ignore', detached: true });
  let isOver = false;
  const ended = new Promise<void>((resolve) =>
    child.once('exit', () => {
      isOver = true;
      resolve();
    }),
  );
  while (!isOver && !(await hasBegun(name, database))) await new Promise((resolve) => setTimeout(resolve, 2));
  const began = performance.now();
  const known = whole.get(name);
  if (known !== undefined) {
    await new Promise((resolve) => setTimeout(resolve, Math.random() * known));
    if (isOver) count(`${name}: ended before`);
    else process.kill(-(child.pid ?? 0), 'SIGKILL');
  }
  await ended;
  whole.set(name, known ?? performance.now() - began);
  const left = name === 'mariadb' && !(await read(database.engine, 'select done from family_tree_applying')).startsWith('!');
  const first = await standing(database);
  if (first.includes('left half done')) {
    const way = first.includes('taken back') && chance(2) === 0 ? 'take-back' : 'finish';
    count(`${name}: left, ${way}`);
    try {
      cli('settle', database.named, way);
    } catch (error) {
      process.stdout.write(`${String((error as { stderr?: string }).stderr)}\n`);
    }
  } else if (left) count(`${name}: left, and nothing had begun`);
  const at = await standing(database);
  const is = at.split(' ')[0] ?? '';
  count(`${name}: ${is}`);
  if ((is !== 'before' && is !== 'after') || !at.endsWith(String(expected))) {
    bad += 1;
    process.stdout.write(`round ${round}, ${name}: ${at}, expected ${expected}\n`);
  }
  await database.remove();
  if (round % 30 === 29) process.stderr.write(`${round + 1} rounds, ${bad} not recovered\n`);
}

for (const [what, times] of Array.from(told).toSorted()) process.stdout.write(`${what}: ${times}\n`);
process.stdout.write(`${rounds} kills, ${bad} of them not recovered from\n`);
await servers.stop();
rmSync(folder, { recursive: true, force: true });
process.exit(bad === 0 ? 0 : 1);
