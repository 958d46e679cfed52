import type { DialectName } from '../core/notation/index.js';
import type { Address } from './address.js';
import type { Engine, Outcome } from './engine.js';
import { mariadbServer } from './mariadb/row.js';
import type { Embedded } from './postgres/embedded/engine.js';
import { postgresServer } from './postgres/row.js';
import { openEmbeddedScratch } from './postgres/scratch.js';
import type { ServerAccess } from './server/access.js';
import type { ServerEngine, Surroundings } from './server/row.js';
import type { Scratch, ScratchName } from './server/scratch.js';
import { bytesOf } from './sqlite/bytes.js';
import { copySqlite } from './sqlite/copy.js';
import { openSqlite } from './sqlite/engine.js';

/** The engines that run as servers, by the names that addresses have for them. One row for each. */
const servers: Readonly<Record<Address['engine'], ServerEngine>> = {
  postgres: postgresServer,
  mariadb: mariadbServer,
};

/** The engine whose databases are files. */
export const fileEngine = {
  dialect: 'sqlite',
  title: 'SQLite',
  /** How the names of its files end. */
  ending: /\.(db|sqlite3?|db3)$/i,
  /** The bytes that each of its files begins with (https://www.sqlite.org/fileformat.html#magic_header_string). */
  header: 'SQLite format 3\0',
  open: openSqlite,
  copy: copySqlite,
  bytesOf,
} as const;

/** The engine that runs in a process of this program's own, and keeps its data in a folder. */
export const embeddedEngine = {
  dialect: 'postgres',
  title: postgresServer.title,
  address: 'postgres:embedded',
  /** How the name of a folder with its data ends. */
  ending: '.postgres',
} as const;

/** Where a script of a dialect can be run: without a server, or only on one. */
export type ScriptsRunIn =
  | { readonly kind: 'file' | 'embedded' }
  /** What that server is called, and the command that runs a script there. */
  | { readonly kind: 'server'; readonly title: string; readonly command: string };

/** Where scripts of a dialect can be run. */
export function scriptsRunIn(dialect: DialectName): ScriptsRunIn {
  if (dialect === fileEngine.dialect) return { kind: 'file' };
  if (dialect === embeddedEngine.dialect) return { kind: 'embedded' };
  const { title, scriptCommand } = servers[dialect];
  return { kind: 'server', title, command: scriptCommand };
}

/** The title of the engine at a server's address. */
export function titleOfServer({ address }: ServerAccess): string {
  return servers[address.engine].title;
}

/** Opens the engine of a server's address. */
export function openAt(access: ServerAccess): Engine {
  return servers[access.address.engine].open(access);
}

/** Makes an empty database of the name that an address has, where the login may. */
export async function makeEmptyAt(access: ServerAccess): Promise<Outcome<null>> {
  if (access.address.database === '')
    return { ok: false, problem: { code: 'missing', message: 'The address names no database. Write its name at the end.' } };
  return servers[access.address.engine].make(access);
}

/**
 * What a login could do beyond the database that it works in, in words; null where that is no more than any login. Of a
 * server that does not answer nothing is known.
 */
export async function powersOf(access: ServerAccess): Promise<string | null> {
  const engine = openAt(access);
  try {
    return await powersIn(engine, access);
  } finally {
    await engine.close();
  }
}

async function powersIn(engine: Engine, { address }: ServerAccess): Promise<string | null> {
  const powers = await servers[address.engine].powers(engine);
  return powers.length === 0 ? null : `${address.user} ${powers.join(', ')}`;
}

/** Tries an address: whether it lets the login in, what is there, and what the login may not do. */
export async function lookAround(access: ServerAccess): Promise<Outcome<Surroundings>> {
  const engine = openAt(access);
  try {
    const found = await servers[access.address.engine].surroundings(engine);
    return found.ok ? { ok: true, value: { ...found.value, powers: await powersIn(engine, access) } } : found;
  } finally {
    await engine.close();
  }
}

/** Where scratch databases are made. */
export type Workshop =
  | { readonly kind: 'embedded'; readonly embedded: Embedded }
  | { readonly kind: 'server'; readonly access: ServerAccess };

/**
 * Opens an empty database of its own on an engine. On a server it is a database, or a schema where the login may not make one
 * and the engine has schemas.
 */
export function openScratch(workshop: Workshop, wanted: ScratchName): Promise<Outcome<Scratch>> {
  return workshop.kind === 'embedded'
    ? openEmbeddedScratch(workshop.embedded, wanted)
    : servers[workshop.access.address.engine].scratch(workshop.access, wanted);
}
