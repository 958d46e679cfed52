import { basename } from 'node:path';
import { readDesign } from '../core/design/index.js';
import { namedKeys } from '../core/samples/index.js';
import { serveLive } from '../server/index.js';
import { nowOf } from '../services/index.js';
import { openGiven } from './place.js';
import { readText } from './report.js';

export interface ServeLiveFlags {
  readonly db?: string;
  readonly host: string;
  readonly port: number;
  readonly token?: string;
  readonly cors?: readonly string[];
  readonly schema?: readonly string[];
  readonly rate: number;
}

const LOOPBACK = ['127.0.0.1', 'localhost', '::1'];
/** How long one statement may take, in milliseconds. */
const LONGEST = 30_000;

/** Serves the live endpoint of a text over a database, without the page, until it is ended. @throws with words for a person */
export async function serveTextLive(
  file: string,
  { db, host, port, token, cors = [], schema, rate }: ServeLiveFlags,
): Promise<void> {
  if (db === undefined) throw new Error('Say with --db over which database the endpoint is: a SQLite file, or an address.');
  const given = token ?? process.env.FAMILY_TREE_TOKEN ?? null;
  if (!LOOPBACK.includes(host) && given === null)
    throw new Error(`Listening on ${host} lets others in. Give a token: --token, or FAMILY_TREE_TOKEN.`);
  const text = await readText(file);
  const reading = await openGiven(db, LONGEST);
  const { engine } = reading;
  const design = readDesign(text, engine.dialect);
  const broken = design.findings.find(({ weight }) => weight === 'error');
  if (broken !== undefined) throw new Error(`${file} has something wrong in it: ${broken.message}`);
  const answers = await engine.answers();
  if (!answers.ok) throw new Error(answers.problem.message);
  const writing = await openGiven(db, LONGEST, 'write');
  const madeHere = await engine.wasMadeHere();
  const sampleKeys = namedKeys(design.model, nowOf(design.model, true));
  const toWrite = () => ({ engine: writing.engine, close: () => Promise.resolve() });
  const open = { design, engine, sampleKeys, madeHere, schemas: schema ?? null, revision: 1, toWrite };
  const name = basename(file).replace(/\.(kin|(model\.)?json)$/, '');
  const serving = await serveLive({ name, open, host, port, token: given, origins: cors, rate });
  process.stdout.write(`${serving.address} answers over ${db}\n`);
  if (given === null) process.stdout.write(`As the system: Actor: system, Authorization: Bearer ${serving.token}\n`);
  const end = async () => {
    await serving.close();
    await reading.close();
    await writing.close();
    process.exit(0);
  };
  process.once('SIGINT', () => void end());
  process.once('SIGTERM', () => void end());
}
