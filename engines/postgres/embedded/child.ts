/** The child process that holds an embedded PostgreSQL, so that a runaway statement can be ended by ending it. */
import { mkdirSync } from 'node:fs';
import { dirname } from 'node:path';
import { PGlite } from '@electric-sql/pglite';
import type { Outcome } from '../../engine.js';
import type { AskMessage, ChildMessage } from '../../protocol.js';
import { answer } from '../../server/answer.js';
import type { Connection } from '../../server/connection.js';
import { clientOver, connectionOf } from '../client.js';
import { postgresKind } from '../kind.js';
import { pin } from '../settings.js';
import { lockFolder } from './lock.js';
import { streamTo } from './stream.js';

const [folder = '', label = '', milliseconds = '0'] = process.argv.slice(2);

const send = (message: ChildMessage) => process.send?.(message);

interface Opened {
  readonly connection: Connection;
  close(): Promise<void>;
}

let opening: Promise<Opened> | null = null;
let place: string | null = null;

/** Starts the engine over its folder; `memory` keeps all in memory. */
async function open(): Promise<Opened> {
  const inMemory = folder === 'memory';
  if (!inMemory) mkdirSync(dirname(folder), { recursive: true });
  const unlock = inMemory ? () => undefined : lockFolder(`${folder}.lock`);
  if (unlock === null) throw Object.assign(new Error(`${label} is in use by another process`), { code: '55P03' });
  process.on('exit', unlock);
  const engine = await PGlite.create({ dataDir: inMemory ? 'memory://' : folder });
  const client = clientOver(streamTo(engine));
  await client.connect();
  const connection = connectionOf(client);
  await pin(connection, { place: null, milliseconds: Number(milliseconds) });
  return {
    connection,
    async close() {
      await engine.close();
      unlock();
    },
  };
}

async function handle({ id, place: wanted, ask }: AskMessage): Promise<void> {
  let outcome: Outcome<unknown>;
  try {
    opening ??= open();
    const { connection } = await opening;
    if (wanted !== place) await connection.query("select set_config('search_path', $1, false)", [quoted(wanted ?? 'public')]);
    place = wanted;
    outcome = { ok: true, value: await answer(postgresKind, connection, ask, (sql) => send({ kind: 'running', id, sql })) };
  } catch (error) {
    outcome = { ok: false, problem: postgresKind.problemOf(error, label) };
  }
  send({ kind: 'done', id, outcome });
}

function quoted(name: string): string {
  return `"${name.replaceAll('"', '""')}"`;
}

// The engine has one session, so calls come one after the other.
let last: Promise<void> = Promise.resolve();
process.on('message', (message: AskMessage) => {
  last = last.then(() => handle(message));
});

process.on('disconnect', () => {
  void last
    .then(async () => (await opening)?.close())
    .catch(() => undefined)
    .finally(() => process.exit(0));
});
