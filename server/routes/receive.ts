import { randomUUID } from 'node:crypto';
import { createWriteStream } from 'node:fs';
import { open, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Request } from 'express';
import type { Arrival, BringInAddress } from '../../contract/index.js';
import { patternsIn } from '../../core/import/index.js';
import { embeddedEngine, fileEngine, scriptsRunIn } from '../../engines/index.js';
import { type BroughtIn, removeAt, titleOf } from '../../services/index.js';
import { type PlacesInUse, passwordIn, shownAddress } from '../jobs/index.js';
import { partOf, type StoredTree } from '../store/index.js';
import type { Texts } from '../workers/index.js';
import { pathBelow } from './files.js';

const HEADER = Buffer.from(fileEngine.header, 'latin1');

/** Where databases come from and go to. */
export interface Places {
  /** Where databases are kept. */
  readonly folder: string;
  /** The folder below which files may be brought in where they lie. */
  readonly given: string | null;
  readonly uploadLimit: number;
  readonly places: PlacesInUse;
  /** Where they are read, and their texts written. */
  readonly texts: Texts;
  /** Notes a file before it is made: it is removed at the next start if no tree has come to have it. */
  readonly note: (name: string) => void;
}

/** A database that came in, and the file that is looked at: a name in the data folder, or a path of its own. */
export interface BroughtDatabase {
  readonly brought: BroughtIn;
  readonly database: string;
  /** Where it is, if that is no file of its own. */
  readonly place: Origin;
  readonly arrival: Arrival;
}

/** Which server or engine a database came from. */
export type Origin = Pick<StoredTree, 'address' | 'password' | 'label' | 'unlocked' | 'part'>;

const OWN_FILE: Origin = { address: null, password: null, label: null, unlocked: 0, part: null };

/** Something that cannot be brought in, in words for the person who sent it. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    message: string,
  ) {
    super(message);
  }
}

/** Takes an upload to the data folder, and brings it in from there. */
export async function uploaded(
  request: Request,
  { folder, uploadLimit, texts, note }: Places,
  step: (what: string) => void,
): Promise<BroughtDatabase> {
  const name = typeof request.query.name === 'string' ? request.query.name.slice(0, 200) : 'database.db';
  const id = randomUUID();
  const path = join(folder, `${id}.uploading`);
  const file = `${id}.db`;
  note(file);
  note(`${id}${embeddedEngine.ending}`);
  try {
    const announced = Number(request.headers['content-length'] ?? 0);
    if (announced > uploadLimit) throw new Refused(413, messageOfLimit(name, uploadLimit));
    const isScript = /\.sql$/i.test(name);
    await pipeline(request, checked(name, uploadLimit, isScript), createWriteStream(path, { flags: 'wx', mode: 0o600 }));
    const came = isScript ? await fromScript(texts, path, name, folder, id, step) : null;
    if (came !== null) return { ...came, arrival: { ...came.arrival, source: { kind: 'upload', name } } };
    const brought = await texts.does('bringIn', [path, titleOf(name), join(folder, file)], step);
    if (!brought.ok) throw new Refused(422, brought.problem.message.replaceAll(path, name).replaceAll(`${id}.uploading`, name));
    if (brought.value.path === path) await rename(path, join(folder, file));
    const arrival = { ...arrivalFrom(brought.value, 'upload', name), copied: null };
    return { brought: brought.value, database: file, place: OWN_FILE, arrival };
  } catch (error) {
    await removeAt(join(folder, file));
    throw error;
  } finally {
    await removeAt(path);
  }
}

/** How much of a script is looked at to know what it was written for. */
const TELLING = 200_000;

async function headOf(path: string): Promise<string> {
  const file = await open(path);
  try {
    const { buffer, bytesRead } = await file.read(Buffer.alloc(TELLING), 0, TELLING, 0);
    return buffer.subarray(0, bytesRead).toString('utf8');
  } finally {
    await file.close();
  }
}

/** Runs a script into a database of its own: a file, or an embedded engine. */
async function fromScript(
  texts: Texts,
  path: string,
  name: string,
  folder: string,
  id: string,
  step: (what: string) => void,
): Promise<BroughtDatabase> {
  const dialect = await texts.does('dialectOfScript', [await headOf(path)]);
  const runsIn = scriptsRunIn(dialect);
  if (runsIn.kind === 'server')
    throw new Refused(
      422,
      `${name} is a script for ${runsIn.title}, which runs on a ${runsIn.title} server alone. Run it there (${runsIn.command} ${name}) and bring that database in by its address; or import it with family-tree import ${name} --on ${dialect}://user@host/.`,
    );
  const isEmbedded = runsIn.kind === 'embedded';
  const database = isEmbedded ? `${id}${embeddedEngine.ending}` : `${id}.db`;
  const brought = isEmbedded
    ? await texts.does('bringInScriptEmbedded', [path, titleOf(name), join(folder, database)], step)
    : await texts.does('bringInScript', [path, titleOf(name), join(folder, database)], step);
  if (!brought.ok) {
    await removeAt(join(folder, database));
    await rm(join(folder, database), { recursive: true, force: true });
    throw new Refused(422, brought.problem.message.replaceAll(path, name));
  }
  const place = isEmbedded ? { ...OWN_FILE, address: embeddedEngine.address } : OWN_FILE;
  return { brought: brought.value, database, place, arrival: arrivalFrom(brought.value, 'upload', name) };
}

/** Brings in a database from a server: its catalogue alone, no row of it. */
export async function fromServer(
  wanted: BringInAddress,
  { places, texts }: Pick<Places, 'places' | 'texts'>,
  step: (what: string) => void,
): Promise<BroughtDatabase> {
  const password = wanted.password ?? passwordIn(wanted.address);
  const opened = await places.at(wanted.address, password, LONGEST_LOOK);
  if ('problem' in opened) throw new Refused(422, opened.problem);
  const { host, database } = opened.access.address;
  const tables = patternsIn(wanted.tables);
  const part = { schemas: wanted.schemas, tables: tables.length === 0 ? null : tables };
  const brought = await texts.does('bringInServer', [opened.access, titleOf(database === '' ? host : database), part], step);
  if (!brought.ok) throw new Refused(422, brought.problem.message);
  const address = shownAddress(wanted.address);
  const place: Origin = {
    address,
    password: places.remember(address, password, wanted.keepPassword),
    label: wanted.label === '' ? null : wanted.label,
    unlocked: 0,
    part: JSON.stringify(part),
  };
  return { brought: brought.value, database: '', place, arrival: arrivalFrom(brought.value, 'server', address) };
}

const LONGEST_LOOK = 60_000;

/** Brings in again what a tree came from on a server. */
export async function againFromServer(
  tree: StoredTree,
  { places, texts }: Pick<Places, 'places' | 'texts'>,
  step: (what: string) => void,
): Promise<BroughtDatabase> {
  const opened = await places.of(tree, LONGEST_LOOK);
  if ('problem' in opened) throw new Refused(422, opened.problem);
  const brought = await texts.does('bringInServer', [opened.access, tree.title, partOf(tree)], step);
  if (!brought.ok) throw new Refused(422, brought.problem.message);
  return { brought: brought.value, database: '', place: tree, arrival: arrivalFrom(brought.value, 'server', tree.address ?? '') };
}

/** Brings in a file below the given folder, where it lies. */
export async function whereItLies(
  wanted: string,
  { folder, given, texts, note }: Places,
  step: (what: string) => void,
): Promise<BroughtDatabase> {
  const path = given === null ? null : await pathBelow(given, wanted);
  if (path === null)
    throw new Refused(
      403,
      'Only files below the folder that was given at the start can be brought in. Start the server with --folder.',
    );
  const isRegular = await stat(path).then(
    (found) => found.isFile(),
    () => true,
  );
  if (!isRegular) throw new Refused(422, `${wanted} is no regular file.`);
  const file = `${randomUUID()}.db`;
  note(file);
  note(file.replace(/\.db$/, embeddedEngine.ending));
  const copy = join(folder, file);
  if (/\.sql$/i.test(path)) {
    const came = await fromScript(texts, path, wanted, folder, file.replace(/\.db$/, ''), step);
    return { ...came, arrival: { ...came.arrival, source: { kind: 'path', name: wanted } } };
  }
  const brought = await texts.does('bringIn', [path, titleOf(path), copy], step);
  if (!brought.ok) {
    await removeAt(copy);
    throw new Refused(422, brought.problem.message);
  }
  const database = brought.value.path === path ? path : file;
  return { brought: brought.value, database, place: OWN_FILE, arrival: arrivalFrom(brought.value, 'path', wanted) };
}

function arrivalFrom(
  { summary, kept, report, copied, script }: BroughtIn,
  kind: Arrival['source']['kind'],
  name: string,
): Arrival {
  return {
    source: { kind, name },
    at: new Date().toISOString(),
    summary,
    kept: [...kept],
    report: [...report],
    copied,
    script:
      script === null
        ? null
        : { ...script, failed: [...script.failed], refused: [...script.refused], leftOut: [...script.leftOut] },
  };
}

/** What is said of a file that is too large. @param otherwise what to do with it instead */
export function messageOfLimit(
  name: string,
  limit: number,
  otherwise = 'start it with --folder to bring the file in where it lies',
): string {
  return `${name} is larger than the ${Math.round(limit / 1024 / 1024)} MB that may be uploaded. Start the server with a higher --upload-limit, or ${otherwise}.`;
}

/** Passes the bytes through, and refuses what does not begin like a database or grows past the limit. */
function checked(name: string, limit: number, isScript: boolean): Transform {
  let size = 0;
  let head = Buffer.alloc(0);
  return new Transform({
    transform(chunk: Buffer, _encoding, done) {
      size += chunk.length;
      if (head.length < HEADER.length) {
        head = Buffer.concat([head, chunk]).subarray(0, HEADER.length);
        if (!isScript && !HEADER.subarray(0, head.length).equals(head)) {
          done(
            new Refused(
              422,
              `${name} is no ${fileEngine.title} database, or it is encrypted. Open it with the program that wrote it, and save it as an ordinary ${fileEngine.title} file; a SQL script needs a name that ends in .sql.`,
            ),
          );
          return;
        }
      }
      if (size > limit) done(new Refused(413, messageOfLimit(name, limit)));
      else done(null, chunk);
    },
    flush(done) {
      done(
        head.length < (isScript ? 1 : HEADER.length)
          ? new Refused(422, `${name} is empty, or too short to be ${isScript ? 'a script' : 'a database'}.`)
          : null,
      );
    },
  });
}
