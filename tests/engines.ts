import { randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { type Design, readDesign } from '../core/design/index.js';
import type { DialectName } from '../core/notation/index.js';
import {
  type Address,
  type Embedded,
  type Engine,
  openEmbedded,
  openMariadb,
  openPostgres,
  openSqlite,
  readAddress,
} from '../engines/index.js';
import { fillDatabase, type MadeDatabase } from '../services/index.js';
import { temporaryFolder } from './database.js';

/** Where the real servers of a run are. */
export interface ServerAddresses {
  readonly postgres: string;
  readonly mariadb: string;
  readonly password: string;
  readonly folder: string;
}

export type EngineName = 'sqlite' | 'postgres' | 'embedded' | 'mariadb';

/** An empty database of its own on one engine, and how to be rid of it. */
export interface EmptyDatabase {
  readonly engine: Engine;
  readonly address: Address | null;
  remove(): Promise<void>;
}

/** Opens empty databases on real engines, one kind at a time or all. */
export interface Engines {
  open(name: EngineName): Promise<EmptyDatabase>;
  close(): Promise<void>;
}

const LONGEST_CALL = 60_000;

/** The address of a server as the adapters take it. */
export function addressOf(written: string): Address {
  const read = readAddress(written);
  if (!read.ok || read.place.kind !== 'server') throw new Error(`${written} is no server's address`);
  return read.place.address;
}

export function dialectOf(name: EngineName): DialectName {
  return name === 'embedded' ? 'postgres' : name;
}

export function openEngines(servers: ServerAddresses): Engines {
  const folder = temporaryFolder();
  const { password } = servers;
  let embedded: Embedded | null = null;
  const access = (written: string, place: string | null) => ({
    address: addressOf(written),
    password,
    place,
    label: written.split(':')[0] ?? '',
    milliseconds: LONGEST_CALL,
  });
  const postgres = openPostgres(access(servers.postgres, null));
  const mariadb = openMariadb(access(servers.mariadb, null));
  const opened: Engine[] = [postgres, mariadb];
  const told = async (engine: Engine, ...statements: string[]) => {
    const done = await engine.execute(statements);
    if (!done.ok) throw new Error(done.problem.message);
  };
  return {
    async open(name) {
      const place = `test_${randomUUID().replaceAll('-', '').slice(0, 12)}`;
      switch (name) {
        case 'sqlite': {
          const path = join(folder.path, `${place}.db`);
          const engine = openSqlite({ path, mode: 'make', milliseconds: LONGEST_CALL });
          return {
            engine,
            address: null,
            remove: async () => {
              await engine.close();
              for (const ending of ['', '-wal', '-shm']) await rm(`${path}${ending}`, { force: true });
            },
          };
        }
        case 'embedded': {
          embedded ??= openEmbedded({ folder: 'memory', label: 'The embedded PostgreSQL', milliseconds: LONGEST_CALL });
          const all = embedded.at(null);
          await told(all, `create schema ${place}`);
          return { engine: embedded.at(place), address: null, remove: () => told(all, `drop schema ${place} cascade`) };
        }
        case 'postgres': {
          await told(postgres, `create database ${place} template template0 encoding 'UTF8' lc_collate 'C' lc_ctype 'C'`);
          const own = { ...access(servers.postgres, null), address: { ...addressOf(servers.postgres), database: place } };
          const engine = openPostgres(own);
          return {
            engine,
            address: own.address,
            remove: async () => {
              await engine.close();
              await told(postgres, `drop database ${place} with (force)`);
            },
          };
        }
        case 'mariadb': {
          await told(mariadb, `create database ${place} character set utf8mb4 collate utf8mb4_nopad_bin`);
          const engine = openMariadb(access(servers.mariadb, place));
          return {
            engine,
            address: { ...addressOf(servers.mariadb), database: place },
            remove: async () => {
              await engine.close();
              await told(mariadb, `drop database ${place}`);
            },
          };
        }
      }
    },
    async close() {
      await Promise.all(opened.map((engine) => engine.close()));
      await embedded?.close();
      folder.remove();
    },
  };
}

/** A design made in a database of its own on one engine. */
export interface MadeTree {
  readonly name: EngineName;
  readonly design: Design;
  readonly database: EmptyDatabase;
  readonly made: MadeDatabase;
}

const BEYOND_MARIADB: ReadonlySet<string> = new Set(['triggered-cascade', 'not-on-dialect']);

/** Whether an engine can carry out the rules that a text says: MariaDB cannot all, and a finding says so. */
export function carriesOut(name: EngineName, text: string): boolean {
  if (name !== 'mariadb') return true;
  return !readDesign(text, name).findings.some(({ code, weight }) => weight === 'error' && BEYOND_MARIADB.has(code));
}

/** Makes a text's tables and samples on one engine. @throws where it cannot be made */
export async function makeOn(engines: Engines, name: EngineName, text: string): Promise<MadeTree> {
  const design = readDesign(text, dialectOf(name));
  const errors = design.findings.filter((finding) => finding.weight === 'error');
  if (errors.length > 0) throw new Error(errors.map((finding) => finding.message).join('\n'));
  const database = await engines.open(name);
  const made = await fillDatabase(design, database.engine);
  if (!made.ok) {
    await database.remove();
    throw new Error(`${name}: ${made.problem.message}`);
  }
  return { name, design, database, made: made.value };
}
