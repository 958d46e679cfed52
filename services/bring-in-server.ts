import { readdir, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { chosenTables, importSchema } from '../core/import/index.js';
import {
  type Engine,
  embeddedEngine,
  type Outcome,
  openAt,
  openEmbedded,
  openScratch,
  type ScriptReport,
  type ServerAccess,
  titleOfServer,
} from '../engines/index.js';
import { type BroughtIn, growsPast, largestFrom, type Step } from './bring-in.js';

/** Which part of a server's database is wanted. */
export interface DatabasePart {
  /** Null for all schemas. */
  readonly schemas: readonly string[] | null;
  /** Names or patterns of tables; null for all. */
  readonly tables: readonly string[] | null;
}

const ALL: DatabasePart = { schemas: null, tables: null };

const LONGEST_SCRIPT = 300_000;

/** The text of a database on a server, which is only read: no row of it is copied. */
export async function bringInServer(
  access: ServerAccess,
  title: string,
  wanted: DatabasePart,
  step: Step = () => {},
): Promise<Outcome<BroughtIn>> {
  step('Reading its catalogue');
  const engine = openAt(access);
  try {
    return await told(engine, title, wanted, null, step);
  } finally {
    await engine.close();
  }
}

/** The text of what a script makes in an embedded engine, which keeps its data in a folder. */
export async function bringInScriptEmbedded(
  script: string,
  title: string,
  folder: string,
  step: Step = () => {},
): Promise<Outcome<BroughtIn>> {
  step(`Running the script into an embedded ${embeddedEngine.title}, which takes some seconds to start`);
  const { size } = await stat(script);
  const mostBytes = largestFrom(size) + EMPTY_FOLDER;
  const grown = new AbortController();
  const looking = setInterval(
    () => void sizeBelow(folder).then((bytes) => (bytes > mostBytes ? grown.abort() : undefined)),
    LOOK_EVERY,
  );
  const embedded = openEmbedded({ folder, label: title, milliseconds: LONGEST_SCRIPT });
  try {
    const told = await ranAndTold(embedded.at(null), script, title, embeddedEngine.title, step, grown.signal);
    return grown.signal.aborted
      ? { ok: false, problem: { code: 'refused', message: growsPast(mostBytes - EMPTY_FOLDER) } }
      : told;
  } finally {
    clearInterval(looking);
    await embedded.close();
  }
}

/** The text of what a script makes in a scratch database on a server, which is taken away again. */
export async function bringInScriptOn(
  access: ServerAccess,
  script: string,
  title: string,
  step: Step = () => {},
): Promise<Outcome<BroughtIn>> {
  step('Running the script into a scratch database on the server');
  const scratch = await openScratch({ kind: 'server', access }, { stem: 'script', name: String(process.pid), first: false });
  if (!scratch.ok) return scratch;
  try {
    return await ranAndTold(scratch.value.engine, script, title, titleOfServer(access), step);
  } finally {
    await scratch.value.remove();
  }
}

/** What an embedded engine keeps with no table in it, with its log. */
const EMPTY_FOLDER = 128 * 1024 ** 2;
const LOOK_EVERY = 1000;

/** How much the files below a folder hold, in bytes; what is gone meanwhile counts nothing. */
async function sizeBelow(folder: string): Promise<number> {
  const entries = await readdir(folder, { withFileTypes: true, recursive: true }).catch(() => []);
  const sizes = entries
    .filter((entry) => entry.isFile())
    .map((entry) =>
      stat(join(entry.parentPath, entry.name)).then(
        ({ size }) => size,
        () => 0,
      ),
    );
  return (await Promise.all(sizes)).reduce((sum, size) => sum + size, 0);
}

async function ranAndTold(
  engine: Engine,
  script: string,
  title: string,
  name: string,
  step: Step,
  signal?: AbortSignal,
): Promise<Outcome<BroughtIn>> {
  const ran = await engine.runScript(script, signal === undefined ? {} : { signal });
  if (!ran.ok) return ran;
  if (ran.value.made === 0) {
    const [first] = ran.value.failed;
    const why = first === undefined ? 'It holds no statement that makes a table.' : `Line ${first.line}: ${first.message}.`;
    return { ok: false, problem: { code: 'statement', message: `Nothing in this script runs on ${name}. ${why}` } };
  }
  step('Reading its catalogue');
  return told(engine, title, ALL, ran.value, step);
}

async function told(
  engine: Engine,
  title: string,
  { schemas, tables }: DatabasePart,
  script: ScriptReport | null,
  step: Step,
): Promise<Outcome<BroughtIn>> {
  const looked = await engine.introspect(schemas);
  if (!looked.ok) return looked;
  const { unreadable, ...found } = looked.value;
  const { existing, left } = tables === null ? { existing: found, left: [] } : chosenTables(found, tables);
  if (existing.schema.tables.length === 0)
    return {
      ok: false,
      problem: {
        code: 'missing',
        message: tables === null ? 'There is no table that this login can see.' : `No table is called ${tables.join(', ')}.`,
      },
    };
  step(`Writing the text of ${existing.schema.tables.length} tables, and comparing it with them`);
  const imported = importSchema(existing, title);
  const report = [...unreadable, ...left, ...imported.report];
  return { ok: true, value: { ...imported, report, title, existing, path: '', copied: null, script } };
}
