import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { DialectName } from '../core/notation/index.js';
import { dialectOfScript } from '../core/sql/index.js';
import { type Outcome, readAddress, scriptsRunIn } from '../engines/index.js';
import {
  type BroughtIn,
  bringIn,
  bringInScript,
  bringInScriptEmbedded,
  bringInScriptOn,
  bringInServer,
  titleOf,
} from '../services/index.js';
import { accessTo, isAddress } from './place.js';

export interface ImportOptions {
  readonly follow?: string;
  readonly schema?: readonly string[];
  readonly table?: readonly string[];
  readonly dialect?: DialectName;
  readonly on?: string;
}

const LONGEST_LOOK = 60_000;

/** Brings in what a command names: a server's database, a script of any engine, or a SQLite file. @throws with words for a person */
export async function broughtFrom(database: string, options: ImportOptions, scratch: string): Promise<Outcome<BroughtIn>> {
  if (isAddress(database) && !database.startsWith('sqlite:')) {
    const access = await accessTo(database, LONGEST_LOOK);
    const { host, database: name } = access.address;
    return bringInServer(access, titleOf(name === '' ? host : name), {
      schemas: options.schema ?? null,
      tables: options.table ?? null,
    });
  }
  if (options.schema !== undefined || options.table !== undefined)
    throw new Error(`--${options.table === undefined ? 'schema' : 'table'} is for a server’s database: a file comes in whole.`);
  const read = database.startsWith('sqlite:') ? readAddress(database) : null;
  const file = read?.ok === true && read.place.kind === 'file' ? read.place.file : database;
  if (!/\.sql$/i.test(file)) return bringIn(file, titleOf(file), join(scratch, 'database.db'));
  const title = titleOf(file);
  if (options.on !== undefined) return bringInScriptOn(await accessTo(options.on, LONGEST_LOOK), file, title);
  const dialect = options.dialect ?? dialectOfScript(await readFile(file, 'utf8'));
  const runsIn = scriptsRunIn(dialect);
  switch (runsIn.kind) {
    case 'file':
      return bringInScript(file, title, join(scratch, 'database.db'));
    case 'embedded':
      return bringInScriptEmbedded(file, title, join(scratch, 'embedded'));
    case 'server':
      throw new Error(
        `${file} is a script for ${runsIn.title}, which runs on a ${runsIn.title} server alone. Name one: --on ${dialect}://user@host/ (it runs in a scratch database there, which is taken away).`,
      );
  }
}
