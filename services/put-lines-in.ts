import { createWriteStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import Papa from 'papaparse';
import type { Design } from '../core/design/index.js';
import type { ActorName } from '../core/model/index.js';
import { type FileMapping, type LineFault, problemsOf } from '../core/row-files/index.js';
import type { Wire } from '../core/values/index.js';
import { keptTables } from '../core/write/index.js';
import { type Engine, type LinesDone, type LinesReport, type RefusedLine, type RowFile, textLines } from '../engines/index.js';
import { uuidStem } from './do-commands.js';
import { refusedFor, wordsFor } from './refused-for.js';

/** A file whose lines are to become rows, and the database that they are for. */
export interface PutLinesIn {
  readonly mapping: FileMapping;
  readonly file: RowFile;
  readonly sampleKeys: Readonly<Record<string, Wire>>;
  /** The database was made here, so its constraints keep types and keys. */
  readonly madeHere: boolean;
  /** What now is, as a timestamp in wire form. */
  readonly now: string;
  /** What keys that are made up are derived from, where the same file is to give the same ones; left out: any. */
  readonly seed?: string;
  /** Keeps how rows were, so that they can be put back: the schemas that are read for it; left out, nothing is kept. */
  readonly keeps?: { readonly schemas: readonly string[] | null };
  /** Takes back whatever comes of it, once it has been told. */
  readonly rehearse: boolean;
  /** Whether the good lines stay where others are refused; else nothing stays then. */
  readonly goodOnes: boolean;
  /** Where refused lines are written to, in the form of the file, each with the reason; left out: nowhere. */
  readonly refusedTo?: string;
  /** On whose behalf; left out, the system’s. */
  readonly as?: ActorName;
  /** So many lines are read at most; left out: all. */
  readonly most?: number;
  readonly signal?: AbortSignal;
  readonly progress?: (done: LinesDone) => void;
}

const SYSTEM: ActorName = { kind: 'system' };

/** Why a line was refused, in words. */
export interface LineRefused {
  readonly line: number;
  readonly column: string | null;
  readonly message: string;
}

export type LinesOutcome =
  | { readonly ok: true; readonly report: LinesReport; readonly refused: readonly LineRefused[] }
  | { readonly ok: false; readonly problems: readonly string[] };

/** Puts the lines of a file in as rows of an entity, all within one transaction, and tells which were refused and why. */
export async function putLinesIn(design: Design, engine: Engine, request: PutLinesIn): Promise<LinesOutcome> {
  const { mapping, file, sampleKeys, madeHere, now, seed, rehearse, goodOnes, refusedTo, most = null } = request;
  if (!design.model.entities.has(mapping.entity))
    return { ok: false, problems: [`The text has no entity called ${mapping.entity}.`] };
  const problems = problemsOf(design.model, mapping, (request.as ?? SYSTEM).kind === 'system');
  if (problems.length > 0) return { ok: false, problems };
  const looked = request.keeps === undefined ? null : await engine.introspect(request.keeps.schemas);
  if (looked?.ok === false) return { ok: false, problems: [looked.problem.message] };
  const raw = refusedTo === undefined ? null : `${refusedTo}.raw`;
  try {
    const done = await engine.putLinesIn(
      {
        model: design.model,
        mapping,
        inputs: { now, sampleKeys, madeHere, uuidStem: uuidStem(seed), keep: !rehearse },
        keeps: looked === null ? null : keptTables(design.model, design.dialect, looked.value.schema),
        file,
        goodOnes,
        refusedTo: raw,
        most,
        as: request.as ?? SYSTEM,
      },
      {
        ...(request.signal === undefined ? {} : { signal: request.signal }),
        progress: (done) => (done.kind === 'lines' ? request.progress?.(done) : undefined),
      },
    );
    if (!done.ok) return { ok: false, problems: [done.problem.message] };
    const { broken } = done.value;
    if (broken !== null) return { ok: false, problems: [`${wordsFor(design, broken)} Nothing was written.`] };
    if (raw !== null && refusedTo !== undefined) await writeRefused(design, file, raw, refusedTo);
    const refused: LineRefused[] = [];
    for (const { line, faults } of done.value.firstRefused)
      for (const { column, why } of faults)
        refused.push({ line, column, message: await whyRefused(design, engine, request, why) });
    return { ok: true, report: done.value, refused };
  } finally {
    if (raw !== null) await rm(raw, { force: true });
  }
}

async function whyRefused(
  design: Design,
  engine: Engine,
  { sampleKeys, madeHere, as = SYSTEM }: PutLinesIn,
  why: LineFault['why'],
): Promise<string> {
  return refusedFor(design, engine, { refusal: { line: 0, why }, command: null, sampleKeys, madeHere, as });
}

/** Writes the lines that were refused in the form of their file, so that it can be mended and brought in again. */
async function writeRefused(design: Design, file: RowFile, from: string, to: string): Promise<void> {
  const isCsv = file.form === 'csv';
  const csv = (values: readonly unknown[]) => `${Papa.unparse([values], { delimiter: file.delimiter, newline: '\r\n' })}\r\n`;
  async function* texts(): AsyncGenerator<string> {
    if (isCsv) yield csv([...file.columns, WHY]);
    for await (const line of textLines(from)) {
      const { values, faults } = JSON.parse(line) as RefusedLine;
      const words = faults.map(({ column, why }) => `${column === null ? '' : `${column}: `}${wordsFor(design, why)}`).join(' ');
      if (isCsv) yield csv([...values, ...Array.from({ length: file.columns.length - values.length }, () => ''), words]);
      else {
        const said = file.columns.flatMap((name, at) => (values[at] === undefined ? [] : [[name, values[at]] as const]));
        yield `${JSON.stringify({ ...Object.fromEntries(said), [WHY]: words })}\n`;
      }
    }
  }
  await pipeline(Readable.from(texts()), createWriteStream(to, { mode: 0o600 }));
}

const WHY = 'why refused';
