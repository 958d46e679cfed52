import * as v from 'valibot';
import { FileColumns, type LinesAsk, LinesTold, LookedAtFile, type RowsOutAsk, WorkStep } from '../../contract/index.js';
import { failureMessage } from './api.js';
import { type Posting, posted } from './posted.js';

/** What comes of a call: what was asked for, or why not, in words. */
export type Outcome<T> = { readonly value: T } | { readonly problem: string };

/** Sends a file whose lines are to become rows of an entity; gives what was found of it. */
export function sendRowFile(tree: string, entity: string, file: File, posting: Posting): Promise<Outcome<LookedAtFile>> {
  const names = new URLSearchParams({ entity, name: file.name });
  return call(LookedAtFile, `/api/trees/${tree}/files?${names}`, file, posting);
}

/** Puts the lines of a file that was sent in, or tries the first of them. @param onStep is told how far it has come */
export async function putLinesIn(
  tree: string,
  file: string,
  ask: LinesAsk,
  { signal, onStep }: { readonly signal?: AbortSignal; readonly onStep?: (step: WorkStep) => void } = {},
): Promise<Outcome<LinesTold>> {
  const job = crypto.randomUUID();
  const source = onStep === undefined ? null : new EventSource(`/api/progress/${job}`);
  if (source !== null)
    source.onmessage = (event: MessageEvent<string>) => {
      const step = v.safeParse(WorkStep, JSON.parse(event.data));
      if (step.success) onStep?.(step.output);
    };
  try {
    return await call(
      LinesTold,
      `/api/trees/${tree}/files/${file}/lines?job=${job}`,
      ask,
      signal === undefined ? {} : { signal },
    );
  } finally {
    source?.close();
  }
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

async function call<T>(
  schema: v.GenericSchema<unknown, T>,
  address: string,
  content: File | object,
  posting: Posting,
): Promise<Outcome<T>> {
  try {
    const { status, body } = await posted(address, content, posting);
    const parsed = v.safeParse(schema, body);
    if (status < 300 && parsed.success) return { value: parsed.output };
    return { problem: failureMessage({ data: body }) };
  } catch {
    return { problem: posting.signal?.aborted === true ? 'Stopped. Nothing was written.' : NO_ANSWER };
  }
}

const NO_ANSWER = 'The server does not answer. Try again when it is back.';
