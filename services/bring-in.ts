import { basename } from 'node:path';
import { type Imported, importSchema } from '../core/import/index.js';
import type { Schema } from '../core/schema/index.js';
import { type Engine, type Outcome, openSqlite } from '../engines/index.js';

export interface BroughtIn extends Imported {
  readonly title: string;
  readonly schema: Schema;
}

const LONGEST_LOOK = 30_000;

/** A title for a database file: its name, as a person would say it. */
export function titleOf(file: string): string {
  const words = basename(file)
    .replace(/\.(db|sqlite3?|db3)$/i, '')
    .replace(/[_\-.]+/g, ' ')
    .trim();
  return words === '' ? 'Untitled' : `${(words[0] ?? '').toUpperCase()}${words.slice(1)}`;
}

/** The text of an existing SQLite database. The file is only read. */
export async function bringIn(path: string, title: string): Promise<Outcome<BroughtIn>> {
  const engine = openSqlite({ path, mode: 'look', milliseconds: LONGEST_LOOK });
  try {
    return await bringInFrom(engine, title);
  } finally {
    await engine.close();
  }
}

async function bringInFrom(engine: Engine, title: string): Promise<Outcome<BroughtIn>> {
  const looked = await engine.introspect();
  if (!looked.ok) return looked;
  const { schema, statements } = looked.value;
  return { ok: true, value: { ...importSchema({ schema, statements }, title), title, schema } };
}
