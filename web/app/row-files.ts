import * as v from 'valibot';
import { FileColumns, type LinesAsk, LinesTold, LookedAtFile, type RowsOutAsk } from '../../contract/index.js';
import { failureMessage } from './api.js';
import { call, type Following, longWork, NO_ANSWER, type Outcome } from './long-work.js';
import type { Posting } from './posted.js';

/** Sends a file whose lines are to become rows of an entity; gives what was found of it. */
export function sendRowFile(tree: string, entity: string, file: File, posting: Posting): Promise<Outcome<LookedAtFile>> {
  const names = new URLSearchParams({ entity, name: file.name });
  return call(LookedAtFile, `/api/trees/${tree}/files?${names}`, file, posting);
}

/** Puts the lines of a file that was sent in, or tries the first of them. */
export function putLinesIn(tree: string, file: string, ask: LinesAsk, following: Following = {}): Promise<Outcome<LinesTold>> {
  return longWork(LinesTold, `/api/trees/${tree}/files/${file}/lines`, ask, following);
}

/** Lets go of a file that was sent. */
export function forgetRowFile(tree: string, file: string): void {
  void fetch(`/api/trees/${tree}/files/${file}`, { method: 'DELETE', keepalive: true }).catch(() => null);
}

/** Where a browser gets the lines of a file that were refused. */
export function refusedAddress(tree: string, file: string): string {
  return `/api/trees/${tree}/files/${file}/refused`;
}

/** What the columns of a file can be. */
export async function fileColumns(tree: string, entity: string): Promise<FileColumns> {
  try {
    const answer = await fetch(`/api/trees/${tree}/entities/${encodeURIComponent(entity)}/columns`);
    const parsed = v.safeParse(FileColumns, await answer.json());
    return parsed.success ? parsed.output : NO_COLUMNS;
  } catch {
    return NO_COLUMNS;
  }
}

const NO_COLUMNS: FileColumns = { uses: [], whole: [] };

/** A file of rows, as a browser keeps it. */
export interface RowsFile {
  readonly content: Blob;
  readonly rows: number;
  /** So many texts are the same as what stands for nothing. */
  readonly alike: number;
}

/** Rows as a file. */
export async function takeRowsOut(tree: string, ask: RowsOutAsk, signal: AbortSignal): Promise<Outcome<RowsFile>> {
  try {
    const answer = await fetch(`/api/trees/${tree}/rows/file`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(ask),
      signal,
    });
    if (!answer.ok) return { problem: failureMessage({ data: await answer.json() }) };
    const [rows, alike] = [Number(answer.headers.get('x-rows')), Number(answer.headers.get('x-alike'))];
    return { value: { content: await answer.blob(), rows, alike } };
  } catch {
    return { problem: signal.aborted ? 'Stopped.' : NO_ANSWER };
  }
}
