import { once } from 'node:events';
import { createWriteStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import type { FileColumns, LinesAsk, LinesTold, LookedAtFile, RowsOutAsk } from '../../contract/index.js';
import { type ColumnUse, columnsOut, guessUses, readUse, usesOf, writeUse } from '../../core/row-files/index.js';
import type { Undo } from '../../core/write/index.js';
import { headOf, type RowFile, UnreadableFile } from '../../engines/index.js';
import { type LinesOutcome, type LookedAt, nowOf, putLinesIn, takeRowsOut } from '../../services/index.js';
import { actorIn } from './actor-in.js';
import { mappingOf } from './mapping.js';
import type { OpenDatabase } from './tree-database.js';

/** A file of the data folder that was sent to become rows. */
export interface SentFile {
  readonly path: string;
  readonly form: RowFile['form'];
  readonly entity: string;
}

/** What a file is found to be, but for the name that it was sent under. */
export type FoundFile =
  | (Omit<LookedAtFile, 'file' | 'name'> & { readonly ok: true; readonly delimiter: string })
  | { readonly ok: false; readonly problem: string };

/** Lines that are to become rows, of a file that was looked at before. */
export interface LinesWish extends LinesAsk {
  readonly file: RowFile;
  /** Where refused lines are written to. */
  readonly refusedTo: string;
  readonly seed: string;
}

/** What became of lines, with what it takes to take them back; null where that is not kept. */
export type LinesWritten = (Exclude<LinesTold, { ok: true }> | Omit<Extract<LinesTold, { ok: true }>, 'passing'>) & {
  readonly undo?: Undo | null;
};

/** So many lines are shown before anything is put in, and tried. */
const PREVIEWED = 100;

/** Looks at the beginning of a file: what its columns are, and what they are likely to be. */
export async function lookAtFile({ design }: Pick<OpenDatabase, 'design'>, sent: SentFile): Promise<FoundFile> {
  const { path, form, entity } = sent;
  const { model } = design;
  if (!model.entities.has(entity)) return { ok: false, problem: `The text has no entity called ${entity}.` };
  try {
    const { columns, delimiter, lines } = await headOf(path, form, PREVIEWED);
    const values = lines.map((line) => line.values);
    return {
      ok: true,
      form,
      delimiter,
      columns: [...columns],
      bytes: (await stat(path)).size,
      lines: lines.map((line) => ({ ...line, values: [...line.values] })),
      guessed: guessUses(model, entity, columns, values).map(writeUse),
      uses: usesOf(model, entity).map(({ written }) => written),
    };
  } catch (error) {
    if (error instanceof UnreadableFile) return { ok: false, problem: error.message };
    throw error;
  }
}

/** Puts the lines of a file in; of a preview the first of them, and nothing stays. */
export async function putFileIn(
  open: OpenDatabase,
  wish: LinesWish,
  signal: AbortSignal,
  step: (what: unknown) => void,
): Promise<LinesWritten> {
  const { design, sampleKeys, madeHere } = open;
  const mapping = mappingOf(design, wish);
  if ('problem' in mapping) return { ok: false, problems: [mapping.problem] };
  const behalf = actorIn(design, wish.as);
  if ('problem' in behalf) return { ok: false, problems: [behalf.problem] };
  const writable = open.toWrite();
  if ('problem' in writable) return { ok: false, problems: [writable.problem] };
  const keeps = madeHere || wish.preview ? {} : { keeps: { schemas: open.schemas } };
  try {
    const outcome = await putLinesIn(design, writable.engine, {
      mapping,
      file: wish.file,
      sampleKeys,
      madeHere,
      now: nowOf(design.model, madeHere),
      seed: wish.seed,
      ...keeps,
      rehearse: wish.preview,
      ...behalf,
      // Of a preview all that is wrong is told.
      goodOnes: wish.goodOnes || wish.preview,
      ...(wish.preview ? { most: PREVIEWED } : { refusedTo: wish.refusedTo }),
      signal,
      progress: ({ lines, read, bytes }) =>
        step({ what: `${lines.toLocaleString('en')} lines`, share: bytes === 0 ? 1 : read / bytes }),
    });
    return toldOf(outcome, 'keeps' in keeps);
  } finally {
    await writable.close();
  }
}

function toldOf(outcome: LinesOutcome, keeps: boolean): LinesWritten {
  if (!outcome.ok) return { ok: false, problems: [...outcome.problems] };
  const { report, refused: refusals } = outcome;
  const { lines, created, updated, skipped, refused, kept, ended, first, undo } = report;
  return {
    ok: true,
    lines,
    created,
    updated,
    skipped,
    refused,
    kept,
    ended,
    refusals: [...refusals],
    first: [...first],
    ...(keeps ? { undo } : {}),
  };
}

/** What the columns of a file can be. */
export function fileColumns({ design }: Pick<OpenDatabase, 'design'>, entity: string): FileColumns {
  const { model } = design;
  if (!model.entities.has(entity)) return { uses: [], whole: [] };
  return { uses: usesOf(model, entity).map(({ written }) => written), whole: columnsOut(model, entity).map(writeUse) };
}

/** Rows of a file, and where it is written to. */
export interface RowsOutWish extends RowsOutAsk {
  readonly path: string;
}

/** What came of it: how many rows there are, or why there is no file. */
export type RowsOut =
  | { readonly ok: true; readonly rows: number; readonly alike: number }
  | { readonly ok: false; readonly problem: string };

/** Writes rows into a file of the data folder. */
export async function takeFileOut(open: LookedAt, wish: RowsOutWish, signal: AbortSignal): Promise<RowsOut> {
  const { model } = open.design;
  const { entity, where, orderBy, via, uses, form, nothing, path } = wish;
  if (!model.entities.has(entity)) return { ok: false, problem: `The text has no entity called ${entity}.` };
  const columns: ColumnUse[] = [];
  for (const written of uses) {
    const use = readUse(model, entity, written);
    if ('problem' in use) return { ok: false, problem: use.problem };
    columns.push(use);
  }
  const out = createWriteStream(path, { mode: 0o600 });
  try {
    const request = {
      rows: { entity, where, orderBy, via },
      columns: columns.length === 0 ? columnsOut(model, entity) : columns,
      form,
      delimiter: ',',
      nothing,
    };
    const write = async (piece: string) => {
      if (!out.write(piece)) await once(out, 'drain');
    };
    const taken = await takeRowsOut(open, request, write, { signal });
    if (taken.ok) return { ok: true, rows: taken.rows, alike: taken.alike };
    return { ok: false, problem: [...taken.findings.map(({ message }) => message), ...taken.problems].join(' ') };
  } finally {
    await new Promise<void>((resolve) => out.end(resolve));
  }
}
