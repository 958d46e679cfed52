import * as v from 'valibot';
import { WorkStep } from '../../contract/index.js';
import { failureMessage } from './api.js';
import { type Posting, posted } from './posted.js';

/** What comes of a call: what was asked for, or why not, in words. */
export type Outcome<T> = { readonly value: T } | { readonly problem: string };

/** How long work is followed, and ended. */
export interface Following {
  readonly signal?: AbortSignal;
  /** Is told how far it has come. */
  readonly onStep?: (step: WorkStep) => void;
}

/**
 * Asks for work that takes long, and follows it.
 *
 * @param stopped what a person is told where they ended it
 */
export async function longWork<T>(
  schema: v.GenericSchema<unknown, T>,
  address: string,
  ask: object,
  { signal, onStep }: Following,
  stopped = STOPPED,
): Promise<Outcome<T>> {
  const job = crypto.randomUUID();
  const source = onStep === undefined ? null : new EventSource(`/api/progress/${job}`);
  if (source !== null)
    source.onmessage = (event: MessageEvent<string>) => {
      const step = v.safeParse(WorkStep, JSON.parse(event.data));
      if (step.success) onStep?.(step.output);
    };
  try {
    return await call(schema, `${address}?job=${job}`, ask, signal === undefined ? {} : { signal }, stopped);
  } finally {
    source?.close();
  }
}

/** Posts a file or a message, and reads the answer. */
export async function call<T>(
  schema: v.GenericSchema<unknown, T>,
  address: string,
  content: File | object,
  posting: Posting,
  stopped = STOPPED,
): Promise<Outcome<T>> {
  try {
    const { status, body } = await posted(address, content, posting);
    const parsed = v.safeParse(schema, body);
    if (status < 300 && parsed.success) return { value: parsed.output };
    return { problem: failureMessage({ data: body }) };
  } catch {
    return { problem: posting.signal?.aborted === true ? stopped : NO_ANSWER };
  }
}

const STOPPED = 'Stopped. Nothing was written.';
export const NO_ANSWER = 'The server does not answer. Try again when it is back.';
