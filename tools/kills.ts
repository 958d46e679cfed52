/**
 * Ends the server and its processes at random moments while texts are saved, a bound file is edited from outside, rows are
 * made anew and a database is brought in: `npm run kills -- --rounds 300`. Nothing that was acknowledged, or written by the
 * other program, may be lost; a server that was not ended itself has to live.
 */
import { type ChildProcess, spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import { processesBelow } from '../tests/processes.js';

const rounds = Number(process.argv[process.argv.indexOf('--rounds') + 1] || 20);
const folder = mkdtempSync(join(tmpdir(), 'family-tree-kills-'));
const given = join(folder, 'given');
mkdirSync(given);
const file = join(given, 'bound.kin');
writeFileSync(
  file,
  "tree 'Kills'\n\nentity Branch\n  id    integer key\n  name  text(40)\n\nsample Branch 200\n\n-- editor 0\n\n\n\n-- page 0\n",
);
new Database(join(given, 'house.db')).exec('create table halls (id integer primary key, seats int)').close();
const PORT = 4391;
const base = `http://127.0.0.1:${PORT}/api/`;
const pause = (milliseconds: number) => new Promise((resolve) => setTimeout(resolve, milliseconds));
const chance = (most: number) => Math.floor(Math.random() * most);

async function start(): Promise<ChildProcess> {
  const args = ['dist/cli/main.js', 'serve', '--data', join(folder, 'data'), '--folder', given, '--port', String(PORT)];
  for (let attempt = 0; attempt < 40; attempt++) {
    const started = spawn('node', args, { stdio: 'ignore' });
    for (let waited = 0; waited < 100 && started.exitCode === null; waited++) {
      const answer = await fetch(`${base}trees`).catch(() => null);
      if (answer?.ok === true) return started;
      await pause(100);
    }
    // The port, or the lock, of the one before.
    await pause(200);
  }
  throw new Error('the server does not start');
}

interface Answer {
  readonly status: number;
  readonly body: Record<string, unknown>;
}

/** Null where the server went while it was asked. */
async function ask(method: string, path: string, body?: unknown): Promise<Answer | null> {
  try {
    const answer = await fetch(base + path, {
      method,
      headers: { 'content-type': 'application/json' },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    return { status: answer.status, body: (await answer.json()) as Record<string, unknown> };
  } catch {
    return null;
  }
}

let server = await start();
const opened = await ask('POST', 'files', { path: 'bound.kin' });
const tree = String(opened?.body.id);
const kept = new Set<string>();
let known = 0;

/** All lines that any revision, or the file, has had. */
async function remembered(): Promise<ReadonlySet<string>> {
  const list = (await ask('GET', `trees/${tree}/revisions`))?.body.revisions as { number: number }[] | undefined;
  for (const { number } of (list ?? []).toSorted((one, other) => one.number - other.number)) {
    if (number <= known) continue;
    const revision = await ask('GET', `trees/${tree}/revisions/${number}`);
    // A connection to the server before may be what it was asked over.
    if (revision?.status !== 200) break;
    for (const line of String(revision.body.text).split('\n')) kept.add(line);
    known = number;
  }
  return new Set([...kept, ...readFileSync(file, 'utf8').split('\n')]);
}

const lost: string[] = [];
let [killedServers, killedOthers, saves, edits] = [0, 0, 0, 0];
for (let round = 1; round <= rounds; round++) {
  const acknowledged: string[] = [];
  const working = (async () => {
    for (let turn = 0; turn < 6; turn++) {
      const now = await ask('GET', `trees/${tree}`);
      if (now === null) return;
      const line = `-- page ${round}.${turn}`;
      const text = String(now.body.text).replace(/-- page .*/, line);
      const saved = await ask('PUT', `trees/${tree}/text`, { text, basedOn: now.body.revision });
      if (saved?.status === 200) acknowledged.push(line);
      await pause(chance(40));
    }
  })();
  const editing = (async () => {
    await pause(chance(200));
    const line = `-- editor ${round}`;
    writeFileSync(file, readFileSync(file, 'utf8').replace(/-- editor .*/, line));
    acknowledged.push(line);
    edits += 1;
  })();
  const bringing = round % 5 === 0 ? ask('POST', 'databases', { path: 'house.db' }) : null;
  await pause(chance(350));
  const isServer = Math.random() < 0.4;
  if (isServer) {
    server.kill('SIGKILL');
    killedServers += 1;
  } else {
    const others = processesBelow(server.pid ?? 0).map(({ id }) => id);
    const other = others[chance(others.length)];
    try {
      if (other !== undefined) process.kill(other, 'SIGKILL');
      killedOthers += other === undefined ? 0 : 1;
    } catch {
      // It ended by itself meanwhile.
    }
  }
  await Promise.all([working, editing, bringing]);
  if (isServer) server = await start();
  else if (server.exitCode !== null || (await ask('GET', 'trees'))?.status !== 200) {
    lost.push(`round ${round}: the server, which was not ended`);
    server = await start();
  }
  saves += acknowledged.length - 1;
  // What was written has a moment to be seen.
  await ask('GET', `trees/${tree}`);
  for (let waited = 0; ; waited += 200) {
    const lines = await remembered();
    const missing = acknowledged.filter((line) => !lines.has(line));
    if (missing.length === 0) break;
    if (waited > 8000) {
      lost.push(`round ${round}: ${missing.join(', ')}`);
      break;
    }
    await pause(200);
  }
}
await pause(1500);
const beside = readdirSync(given).filter((name) => name.endsWith('.tmp'));
server.kill('SIGTERM');
rmSync(folder, { recursive: true, force: true });
process.stdout.write(
  `${rounds} rounds: ${killedServers} servers and ${killedOthers} of their processes ended, ${saves} texts saved, ${edits} edits of the file from outside; lost: ${lost.length === 0 ? 'nothing' : `\n${lost.join('\n')}`}; left beside the file: ${beside.length}\n`,
);
process.exit(lost.length === 0 && beside.length === 0 ? 0 : 1);
