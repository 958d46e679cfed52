/** The child process that holds an embedded PostgreSQL, so that a runaway statement can be ended by ending it. */
import { chmodSync, mkdirSync, readdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { PGlite } from '@electric-sql/pglite';
import type { Outcome, Progress } from '../../engine.js';
import { fileProblemOf } from '../../lines-in.js';
import { lockFolder } from '../../lock.js';
import type { AskMessage, ChildMessage, ToChild } from '../../protocol.js';
import { askSent } from '../../sent-plans.js';
import { answer } from '../../server/answer.js';
import type { Connection } from '../../server/connection.js';
import { clientOver, connectionOf } from '../client.js';
import { postgresKind } from '../kind.js';
import { pin } from '../settings.js';
import { streamTo } from './stream.js';

const [folder = '', label = '', milliseconds = '0'] = process.argv.slice(2);

const send = (message: ChildMessage) => process.send?.(message);

interface Opened {
  readonly connection: Connection;
  close(): Promise<void>;
}

/** What is made here is its owner’s alone to read. */
process.umask(0o077);

/**
 * Statements run with the rights of a login that is no superuser: the engine’s own user could write files of its folder.
 * It owns the database, and may read what an earlier version of this program made there as the engine’s own user.
 */
const ROLE = 'family_tree';
const OWN_ROLE = `
  do $$ begin
    if not exists (select from pg_roles where rolname = '${ROLE}') then
      create role ${ROLE} nosuperuser;
    end if;
    execute format('alter database %I owner to ${ROLE}', current_database());
    alter schema public owner to ${ROLE};
    grant pg_read_all_data to ${ROLE};
  end $$`;

/** The call that is to come to an end, where one is. */
let stopped: number | null = null;
let opening: Promise<Opened> | null = null;
let place: string | null = null;

/** Starts the engine over its folder; `memory` keeps all in memory. */
async function open(): Promise<Opened> {
  const inMemory = folder === 'memory';
  if (!inMemory) mkdirSync(dirname(folder), { recursive: true });
  const unlock = inMemory ? () => undefined : await lockSoon(`${folder}.lock`);
  if (typeof unlock === 'number') throw Object.assign(new Error(`${label} is in use by another process`), { code: '55P03' });
  process.on('exit', unlock);
  const engine = await PGlite.create({ dataDir: inMemory ? 'memory://' : folder }).catch((error: unknown) => {
    unlock();
    const why = error instanceof Error ? error.message : String(error);
    throw Object.assign(new Error(`its folder cannot be read (${why})`), { code: 'XX001' });
  });
  await engine.exec(OWN_ROLE);
  const client = clientOver(streamTo(engine));
  await client.connect();
  const connection = connectionOf(client);
  await pin(connection, { place: null, milliseconds: Number(milliseconds) });
  return {
    connection,
    async close() {
      await engine.close();
      if (!inMemory) keepFromOthers(folder);
      unlock();
    },
  };
}

/** The engine gives its files rights of its own; the folder keeps others out while it runs, and here each file does. */
function keepFromOthers(own: string): void {
  for (const entry of readdirSync(own, { withFileTypes: true, recursive: true }))
    chmodSync(join(entry.parentPath, entry.name), entry.isDirectory() ? 0o700 : 0o600);
}

/** Takes the lock; a process that is just ending may still hold it for a moment. */
async function lockSoon(file: string): Promise<(() => void) | number> {
  for (const end = performance.now() + LONGEST_WAIT; ; ) {
    const unlock = lockFolder(file);
    if (typeof unlock !== 'number' || performance.now() > end) return unlock;
    await new Promise((done) => setTimeout(done, 100));
  }
}

const LONGEST_WAIT = 3000;

async function handle(message: AskMessage): Promise<void> {
  const { id, place: wanted } = message;
  const ask = askSent(message);
  let outcome: Outcome<unknown>;
  try {
    opening ??= open();
    const { connection } = await opening;
    // A function of a text may have changed it.
    await connection.query(`set role ${ROLE}`);
    if (wanted !== place) await connection.query("select set_config('search_path', $1, false)", [quoted(wanted ?? 'public')]);
    place = wanted;
    const telling = {
      progress: (done: Progress) => void send({ kind: 'progress', id, done }),
      isStopped: () => stopped === id,
    };
    const value = await answer(postgresKind, connection, ask, (sql) => send({ kind: 'running', id, sql }), telling);
    outcome = { ok: true, value };
  } catch (error) {
    outcome = { ok: false, problem: fileProblemOf(error) ?? postgresKind.problemOf(error, label) };
  }
  // What could not be opened is tried anew by the next call.
  if (!outcome.ok && outcome.problem.code === 'damaged') opening = null;
  send({ kind: 'done', id, outcome });
}

function quoted(name: string): string {
  return `"${name.replaceAll('"', '""')}"`;
}

// The engine has one session, so calls come one after the other.
let last: Promise<void> = Promise.resolve();
process.on('message', (message: ToChild) => {
  if (message.kind === 'stop') stopped = message.id;
  else last = last.then(() => handle(message));
});

process.on('disconnect', () => {
  void last
    .then(async () => (await opening)?.close())
    .catch(() => undefined)
    .finally(() => process.exit(0));
});
