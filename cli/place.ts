import { createInterface } from 'node:readline';
import { Writable } from 'node:stream';
import { type Engine, fileEngine, openAt, openEmbedded, readAddress, type ServerAccess, writeAddress } from '../engines/index.js';
import { PASSWORD_VARIABLE, withAuthority } from '../services/index.js';

/** A database that a command was given, open; and the dialect of its SQL. */
export interface GivenDatabase {
  readonly engine: Engine;
  close(): Promise<void>;
}

/** A file may have a colon in its name; what has two slashes behind it is an address, be it one that is known here or not. */
const ADDRESS = /^((sqlite|postgres|postgresql|mariadb):|[a-z][a-z0-9+.-]*:\/\/)/;

/** Is this an address, rather than a file? */
export function isAddress(written: string): boolean {
  return ADDRESS.test(written);
}

/** The path of a SQLite file; null for a database on a server. */
export function fileOf(written: string): string | null {
  const read = readAddress(isAddress(written) ? written : `sqlite:${written}`);
  return read.ok && read.place.kind === 'file' ? read.place.file : null;
}

/** Opens the database of an address, or a SQLite file, to look at it or to change its rows. @throws with words for a person */
export async function openGiven(written: string, milliseconds: number, mode: 'look' | 'write' = 'look'): Promise<GivenDatabase> {
  const read = readAddress(isAddress(written) ? written : `sqlite:${written}`);
  if (!read.ok) throw new Error(read.problem);
  const { place } = read;
  switch (place.kind) {
    case 'file': {
      const engine = fileEngine.open({ path: place.file, mode, milliseconds });
      return { engine, close: () => engine.close() };
    }
    case 'embedded': {
      const embedded = openEmbedded({ folder: 'memory', label: 'The embedded PostgreSQL', milliseconds });
      return { engine: embedded.at(null), close: () => embedded.close() };
    }
    case 'server': {
      const engine = openAt(await accessTo(written, milliseconds));
      return { engine, close: () => engine.close() };
    }
  }
}

/** What it takes to open a server's address: its password is taken from the environment, or asked for. @throws with words for a person */
export async function accessTo(written: string, milliseconds: number): Promise<ServerAccess> {
  const read = readAddress(written);
  if (!read.ok) throw new Error(read.problem);
  if (read.place.kind !== 'server') throw new Error(`${written} names no server.`);
  if (read.password !== null)
    throw new Error(
      `A password in an address stays in the shell’s history, where others can read it. Leave it out: it is taken from ${PASSWORD_VARIABLE}, or asked for.`,
    );
  const trusted = await withAuthority(read.place.address);
  if ('problem' in trusted) throw new Error(trusted.problem);
  const { host, user } = trusted.address;
  const label = writeAddress({ kind: 'server', address: trusted.address });
  const password = process.env[PASSWORD_VARIABLE] ?? (await prompted(`Password of ${user} at ${host}: `));
  return { address: trusted.address, password, place: null, label, milliseconds };
}

/** Asks at the terminal, without showing what is typed; null where there is no terminal. */
async function prompted(question: string): Promise<string | null> {
  if (!process.stdin.isTTY) return null;
  process.stderr.write(question);
  const silent = new Writable({ write: (_chunk, _encoding, done) => done() });
  const lines = createInterface({ input: process.stdin, output: silent, terminal: true });
  const password = await new Promise<string>((resolve) => lines.question('', resolve));
  lines.close();
  process.stderr.write('\n');
  return password;
}
