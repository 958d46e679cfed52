import { rm, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { type Existing, type Imported, importSchema } from '../core/import/index.js';
import { type Engine, fileEngine, type Outcome, placeToLook, type ScriptReport } from '../engines/index.js';

export interface BroughtIn extends Imported {
  readonly title: string;
  readonly existing: Existing;
  /** The database that is looked at from now on. */
  readonly path: string;
  /** Why that is a copy; null where it is the file itself. */
  readonly copied: string | null;
  /** What became of the script; null where a database was brought in. */
  readonly script: ScriptReport | null;
}

/** Reports a step, in words for the person who waits. */
export type Step = (what: string) => void;

const LONGEST_LOOK = 30_000;
const LONGEST_SCRIPT = 300_000;
/** A script is read whole. */
const LARGEST_SCRIPT = 256 * 1024 * 1024;

/** A title for a database file: its name, as a person would say it. */
export function titleOf(file: string): string {
  const words = basename(file)
    .replace(fileEngine.ending, '')
    .replace(/\.sql$/i, '')
    .replace(/[_\-.]+/g, ' ')
    .trim();
  return words === '' ? 'Untitled' : `${(words[0] ?? '').toUpperCase()}${words.slice(1)}`;
}

/**
 * The text of an existing database that is a file. The file is only read; a copy is made where reading it would leave something
 * beside it.
 *
 * @param copy where a copy would go; what is there is replaced
 */
export async function bringIn(path: string, title: string, copy: string, step: Step = () => {}): Promise<Outcome<BroughtIn>> {
  const place = await placeToLook(path, copy);
  if (!place.ok) return place;
  if (place.value.copied !== null) step('Copied it, to leave the original as it is');
  step('Reading its catalogue');
  const engine = fileEngine.open({ path: place.value.path, mode: 'look', milliseconds: LONGEST_LOOK, label: basename(path) });
  try {
    return await toldFrom(engine, title, { ...place.value, script: null }, step);
  } finally {
    await engine.close();
  }
}

/** The text of what a SQL script makes, in a database of its own at the given place. */
export async function bringInScript(
  script: string,
  title: string,
  into: string,
  step: Step = () => {},
): Promise<Outcome<BroughtIn>> {
  const { size } = await stat(script);
  if (size > LARGEST_SCRIPT) {
    const most = LARGEST_SCRIPT / 1024 / 1024;
    return {
      ok: false,
      problem: {
        code: 'refused',
        message: `A script may hold ${most} MB. Run it into a ${fileEngine.title} file, and bring that in.`,
      },
    };
  }
  await removeAt(into);
  step('Running the script into a database of its own');
  const mostBytes = largestFrom(size);
  const engine = fileEngine.open({ path: into, mode: 'make', milliseconds: LONGEST_SCRIPT, label: basename(script), mostBytes });
  try {
    const ran = await engine.runScript(script);
    if (!ran.ok && ran.problem.code === 'full') return { ok: false, problem: { code: 'refused', message: growsPast(mostBytes) } };
    if (!ran.ok) return ran;
    if (ran.value.made === 0) {
      const [first] = ran.value.failed;
      const why = first === undefined ? 'It holds no statement that makes a table.' : `Line ${first.line}: ${first.message}.`;
      return { ok: false, problem: { code: 'statement', message: `Nothing in this script runs on ${fileEngine.title}. ${why}` } };
    }
    step('Reading its catalogue');
    return await toldFrom(engine, title, { path: into, copied: null, script: ran.value }, step);
  } finally {
    await engine.close();
  }
}

/** How large the database of a script may grow, by the script’s own size: rows that are written out are larger as text. */
export function largestFrom(scriptBytes: number): number {
  return Math.min(4 * 1024 ** 3, Math.max(64 * 1024 ** 2, scriptBytes * 8));
}

/** The message for a script whose database grows past its limit. */
export function growsPast(bytes: number): string {
  const most = Math.round(bytes / 1024 / 1024);
  return `This script makes more than ${most} MB, which is more than one of its size may. Run it into a database of your own, and bring that in.`;
}

/** Removes a database that is a file, with all that its engine may have left beside it. */
export async function removeAt(path: string): Promise<void> {
  for (const suffix of ['', '-wal', '-shm', '-journal']) await rm(`${path}${suffix}`, { force: true });
}

async function toldFrom(
  engine: Engine,
  title: string,
  place: Pick<BroughtIn, 'path' | 'copied' | 'script'>,
  step: Step,
): Promise<Outcome<BroughtIn>> {
  const looked = await engine.introspect();
  if (!looked.ok) return looked;
  const { unreadable, ...existing } = looked.value;
  const { schema } = existing;
  step(`Writing the text of ${schema.tables.length} tables, and comparing it with them`);
  const imported = importSchema(existing, title);
  return { ok: true, value: { ...imported, report: [...unreadable, ...imported.report], ...place, title, existing } };
}
