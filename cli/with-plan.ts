import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Answers, NO_ANSWERS, readAnswers } from '../core/changes/index.js';
import { readDesign } from '../core/design/index.js';
import { type Engine, fileEngine, type Outcome, openScratch as openOnServer } from '../engines/index.js';
import {
  nowOf,
  type OpenScratch,
  type PlanDatabase,
  type PlannedDatabase,
  planDatabase,
  planPuttingBack,
  planUndo,
  wishedSchema,
} from '../services/index.js';
import { accessTo, fileOf, openGiven } from './place.js';
import { mayGoOn, readText } from './report.js';

/** What commands that plan have in common. */
export interface PlanFlags {
  readonly answers?: string;
  readonly evenSo?: boolean;
  readonly schema?: readonly string[];
  readonly timeout: number;
}

/** A plan, and the database that it is for, open. */
export interface PlanAtHand {
  readonly engine: Engine;
  readonly planned: PlannedDatabase;
  readonly database: string;
  /** A folder that is taken away in the end. */
  readonly folder: string;
  /** The text that the database follows when it is carried out. */
  readonly text: string;
  readonly now: string;
}

const LONGEST_MAKE = 60_000;

/** Plans what turns a database into what a text says, and goes on with it. @throws with words for a person */
export async function withPlan(
  file: string,
  database: string,
  options: PlanFlags,
  mode: 'look' | 'write',
  use: (at: PlanAtHand) => Promise<void>,
): Promise<void> {
  const text = await readText(file);
  const answers = await answersIn(options.answers);
  const { engine, close } = await openGiven(database, options.timeout * 1000, mode);
  const folder = await mkdtemp(join(tmpdir(), 'family-tree-'));
  try {
    const design = readDesign(text, engine.dialect);
    if (!mayGoOn(file, design, 'planned', options.evenSo === true)) return;
    const now = nowOf(design.model, false);
    const wished = told(await wishedSchema(design, scratchFor(database, folder)));
    const schemas = options.schema ?? null;
    const planned = told(await planDatabase(design, engine, { answers, wished, now, schemas, madeAs: null }));
    await use({ engine, planned, database, folder, text, now });
  } finally {
    await close();
    await rm(folder, { recursive: true, force: true });
  }
}

/** Plans how the newest plan of a database is taken back, and goes on with it. @throws with words for a person */
export function withUndo(database: string, options: PlanFlags, use: (at: PlanAtHand) => Promise<void>): Promise<void> {
  return withMade(database, options, 'write', use, async (engine, request) => {
    const planned = told(await planUndo(engine, { ...request, madeOf: null }));
    return { planned, text: planned.undoes?.textBefore ?? '' };
  });
}

/** Plans how what somebody else's hand has changed in a database is put back, and goes on with it. @throws with words for a person */
export function withPuttingBack(
  database: string,
  options: PlanFlags,
  mode: 'look' | 'write',
  use: (at: PlanAtHand) => Promise<void>,
): Promise<void> {
  return withMade(database, options, mode, use, async (engine, request) => {
    const planned = told(await planPuttingBack(engine, request));
    return { planned, text: planned.history[0]?.textAfter ?? '' };
  });
}

/** Makes a plan that rests on the history of a database alone, and goes on with it. */
async function withMade(
  database: string,
  options: PlanFlags,
  mode: 'look' | 'write',
  use: (at: PlanAtHand) => Promise<void>,
  make: (
    engine: Engine,
    request: Pick<PlanDatabase, 'answers' | 'now' | 'schemas'>,
  ) => Promise<{ readonly planned: PlannedDatabase; readonly text: string }>,
): Promise<void> {
  const answers = await answersIn(options.answers);
  const { engine, close } = await openGiven(database, options.timeout * 1000, mode);
  const folder = await mkdtemp(join(tmpdir(), 'family-tree-'));
  try {
    const now = `${new Date().toISOString().slice(0, -1)}000Z`;
    const made = await make(engine, { answers, now, schemas: options.schema ?? null });
    await use({ engine, ...made, database, folder, now });
  } finally {
    await close();
    await rm(folder, { recursive: true, force: true });
  }
}

/** What came of something, where it came to something. @throws with words for a person */
export function told<T>(outcome: Outcome<T>): T {
  if (!outcome.ok) throw new Error(outcome.problem.message);
  return outcome.value;
}

/** Where the tables of a text are tried: on the server of the database, or in a file of a folder. */
export function scratchFor(database: string, folder: string): OpenScratch {
  if (fileOf(database) !== null)
    return () => {
      const path = join(folder, 'wished.db');
      const engine = fileEngine.open({ path, mode: 'make', milliseconds: LONGEST_MAKE, label: 'The tables of the text' });
      return Promise.resolve({ ok: true, value: { engine, remove: () => engine.close() } });
    };
  return async (design) => {
    const access = await accessTo(database, LONGEST_MAKE);
    const name = { stem: `plan${process.pid}`, name: 'wished', first: true, design, likeInUse: true };
    return openOnServer({ kind: 'server', access }, name);
  };
}

async function answersIn(file: string | undefined): Promise<Answers> {
  if (file === undefined) return NO_ANSWERS;
  const { answers, faults } = readAnswers(await readFile(file, 'utf8'));
  const [fault] = faults;
  if (fault !== undefined) throw new Error(`${file}:${fault.line}: ${fault.message}`);
  return answers;
}
