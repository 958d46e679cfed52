import { rm } from 'node:fs/promises';
import type { Design } from '../core/design/index.js';
import { keysToHold } from '../core/dialects/index.js';
import { type Samples, samplesInSteps, type Unsatisfied } from '../core/samples/index.js';
import { schemaOf } from '../core/schema/index.js';
import type { Wire } from '../core/values/index.js';
import { type Engine, fileEngine, type Insert, type Outcome } from '../engines/index.js';
import { checkRows } from './check-rows.js';
import { nowOf } from './clock.js';

/** A database that was made from a text. */
export interface MadeDatabase {
  /** How many rows stand in each table. */
  readonly rows: Readonly<Record<string, number>>;
  /** What could not be made as the text asks, by entity or relation and constraint. */
  readonly unsatisfied: readonly Unsatisfied[];
  /** What some of the rows do not hold to, and no constraint could keep: rules, and promises of a far side. */
  readonly unheld: readonly string[];
  /** Keys of the named sample rows, by `Entity(row)`. */
  readonly sampleKeys: Readonly<Record<string, Wire>>;
}

/** How far the making of a database is. */
export interface MakeProgress {
  readonly what: 'thinking out' | 'writing' | 'looking over';
  /** The rows thought out so far; then all of them. */
  readonly rows: number;
}

export interface MakeOptions {
  /** How large a file may grow. */
  readonly mostBytes?: number;
  /** Ends the making; nothing of it is kept. */
  readonly signal?: AbortSignal;
  /** Is told now and then how far it is. */
  readonly step?: (progress: MakeProgress) => void;
}

const LONGEST_MAKE = 120_000;
/** How often it is told how far the making is, in milliseconds. */
const TOLD_EVERY = 250;

/** What the engine does not look at while rows are put in. */
const HELD_BY_NONE = ['broken-rule', 'unkept-promise'];

/** Makes a new database from a design, with its samples. A file that is there already is replaced. */
export async function makeDatabase(design: Design, path: string, options: MakeOptions = {}): Promise<Outcome<MadeDatabase>> {
  const { mostBytes } = options;
  for (const suffix of ['', '-wal', '-shm']) await rm(`${path}${suffix}`, { force: true });
  const size = mostBytes === undefined ? {} : { mostBytes };
  const engine = fileEngine.open({ path, mode: 'make', milliseconds: LONGEST_MAKE, ...size });
  try {
    return await fillDatabase(design, engine, options);
  } finally {
    await engine.close();
  }
}

/**
 * Makes a design's tables and samples in an empty database of its dialect; those that are somebody else's too, since
 * nobody else has made them there.
 */
export async function fillDatabase(
  design: Design,
  engine: Engine,
  { signal, step }: MakeOptions = {},
): Promise<Outcome<MadeDatabase>> {
  const samples = await thoughtOut(design, { signal, step });
  if (samples === null) return STOPPED;
  const rows = samples.tables.reduce((sum, table) => sum + table.rows.length, 0);
  step?.({ what: 'writing', rows });
  const { schema } = schemaOf(design.model, design.dialect, { standIns: true });
  const { before, after } = design.dialect.steps(schema);
  const keys = keysToHold(design.model, schema, design.dialect);
  const request = { before, inserts: insertsOf(design, samples), keys, after, marked: true };
  const made = await engine.make(request, signal === undefined ? {} : { signal });
  if (!made.ok) return made;
  step?.({ what: 'looking over', rows });
  const refused = made.value.refused.map(({ table, constraint, rows }) => ({
    owner: table,
    constraint: sourceOf(design, constraint),
    rows,
  }));
  const held = await checkRows(design, engine, {
    sampleKeys: samples.keys,
    madeHere: true,
    codes: HELD_BY_NONE,
    ...(signal === undefined ? {} : { signal }),
  });
  if (signal?.aborted === true) return STOPPED;
  return {
    ok: true,
    value: {
      rows: made.value.rows,
      unsatisfied: [...samples.unsatisfied, ...refused],
      unheld: held.findings.map(({ message }) => message),
      sampleKeys: samples.keys,
    },
  };
}

const STOPPED: Outcome<never> = { ok: false, problem: { code: 'ended', message: 'Stopped.' } };

/** The rows of the samples; null where the making was ended. What else the process is asked meanwhile it answers. */
async function thoughtOut(
  { model }: Design,
  { signal, step }: { readonly signal: AbortSignal | undefined; readonly step: MakeOptions['step'] },
): Promise<Samples | null> {
  const making = samplesInSteps(model, nowOf(model, true));
  let told = performance.now();
  for (let turn = making.next(); ; turn = making.next()) {
    if (turn.done === true) return turn.value;
    if (performance.now() - told < TOLD_EVERY) continue;
    step?.({ what: 'thinking out', rows: turn.value });
    await new Promise((resolve) => setImmediate(resolve));
    if (signal?.aborted === true) return null;
    told = performance.now();
  }
}

function sourceOf(design: Design, constraint: string): string {
  return design.sources.find((source) => source.constraint === constraint)?.what ?? constraint;
}

function insertsOf({ dialect }: Design, samples: Samples): Insert[] {
  const { values } = dialect;
  return samples.tables.flatMap(({ schema, table, columns, rows }): Insert[] => {
    if (rows.length === 0) return [];
    const bound = rows.map((row) => columns.map(({ name, type }) => values.bind(type, row.get(name) ?? null)));
    return [{ table: { schema, name: table }, columns: columns.map(({ name }) => name), rows: bound }];
  });
}
