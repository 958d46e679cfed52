import { execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { readDesign } from '../core/design/index.js';
import { scriptOf, sqliteDialect } from '../core/dialects/index.js';
import { mediansLater } from './measure.js';

const LIBRARY = `tree 'Live'
  actor Player

entity Branch in branches
  id    integer key
  name  text(40)

entity Player in players
  id    integer key
  name  text(40)

entity Loan in loans
  id    integer key
  fee   integer
  memo  text(40)

relation home
  Player knows one Branch as branch
  Branch knows many Player as players

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans
`;

const LOANS = 100_000;
const PLAYERS = 2000;
const BRANCHES = 20;
const ROUNDS = 60;

/**
 * A collection of 100 with two includes, against the same bytes from an Express route with SQL written by hand: each as a program of its
 * own, ours as it was built.
 */
export async function benchLive(): Promise<string[]> {
  execFileSync(process.execPath, ['tools/build.mjs', '--if-stale']);
  const folder = mkdtempSync(join(tmpdir(), 'family-tree-live-'));
  const path = join(folder, 'live.db');
  writeFileSync(join(folder, 'live.kin'), LIBRARY);
  fill(path);
  const served = await started(
    'dist/cli/main.js',
    'serve',
    '--live',
    join(folder, 'live.kin'),
    '--db',
    path,
    '--port',
    '0',
    '--rate',
    '1000000',
  );
  const route = await started('bench/live-by-hand.mjs', path);
  try {
    const page = 'loans?include=borrower.branch&page[size]=100&page[number]=7';
    const headers = { actor: 'system', authorization: `Bearer ${served.token}` };
    const text = async (address: string) => (await fetch(`${address}/${page}`, { headers })).text();
    const ours = await text(served.address);
    const hand = await text(route.address);
    if (ours !== hand) throw new Error(`other bytes:\n${ours.slice(0, 900)}\n${hand.slice(0, 900)}`);
    const ways = { ours: () => text(served.address), hand: () => text(route.address) };
    const { ours: own, hand: other } = await mediansLater(ways, ROUNDS);
    return [
      `a collection of 100 with two includes over HTTP: ${(own / other).toFixed(2)} × the same bytes from a route with SQL by hand (${own.toFixed(1)} ms against ${other.toFixed(1)} ms, ${ours.length.toLocaleString('en')} bytes)`,
    ];
  } finally {
    served.stop();
    route.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}

interface Started {
  readonly address: string;
  /** What it says that the system shows; empty where it says nothing of it. */
  readonly token: string;
  stop(): void;
}

/** Starts a program that says at which address it answers. */
function started(file: string, ...args: readonly string[]): Promise<Started> {
  const program = spawn(process.execPath, [file, ...args], { stdio: ['ignore', 'pipe', 'inherit'] });
  return new Promise((done, failed) => {
    let said = '';
    program.stdout.on('data', (chunk: Buffer) => {
      said += chunk.toString();
      const address = /^(http\S+) answers/.exec(said)?.[1];
      const token = /Bearer (\S+)/.exec(said)?.[1] ?? '';
      if (address !== undefined && (token !== '' || args[0] !== 'serve')) done({ address, token, stop: () => program.kill() });
    });
    program.on('exit', () => failed(new Error(`${file} ended: ${said}`)));
  });
}

function fill(path: string): void {
  const db = new Database(path);
  db.exec(scriptOf(sqliteDialect, readDesign(LIBRARY).schema));
  db.transaction(() => {
    const branch = db.prepare('insert into branches (id, name) values (?, ?)');
    for (let b = 1; b <= BRANCHES; b++) branch.run(b, `Branch ${b}`);
    const player = db.prepare('insert into players (id, name, branch_id) values (?, ?, ?)');
    for (let p = 1; p <= PLAYERS; p++) player.run(p, `Player ${p}`, 1 + (p % BRANCHES));
    const loan = db.prepare('insert into loans (id, fee, memo, borrower_id) values (?, ?, ?, ?)');
    for (let l = 1; l <= LOANS; l++) loan.run(l, (l * 7919) % 1000, `A note on loan ${l}`, 1 + ((l * 31) % PLAYERS));
  })();
  db.close();
}
