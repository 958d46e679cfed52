import { useCallback, useState } from 'react';
import * as v from 'valibot';
import { type BringInAddress, BroughtAgain, BroughtInTree, WorkStep } from '../../contract/index.js';
import { failureMessage } from './api.js';
import { posted } from './posted.js';

/**
 * A database to bring in: a file of the person's, one that lies below the folder that the server was given, or one on a server.
 */
export type BringInSource =
  | { readonly kind: 'file'; readonly file: File }
  | { readonly kind: 'path'; readonly path: string }
  | { readonly kind: 'server'; readonly ask: BringInAddress };

/** How far it has come: how much of it is sent (0 to 1, null where nothing is sent), and what is being done with it. */
export interface Progress {
  readonly name: string;
  readonly sent: number | null;
  readonly steps: readonly string[];
}

type Outcome<T> = { readonly value: T } | { readonly problem: string };

/** Brings in a database as a new tree. */
export function useBringIn() {
  return useSending('databases', BroughtInTree);
}

/** Brings the database of a tree in again: what changed there, as edits to its text. */
export function useBringInAgain(tree: string) {
  return useSending(`trees/${tree}/again`, BroughtAgain);
}

function useSending<T>(address: string, schema: v.GenericSchema<unknown, T>) {
  const [progress, setProgress] = useState<Progress | null>(null);
  const send = useCallback(
    async (wanted: BringInSource): Promise<Outcome<T>> => {
      const name = nameOf(wanted);
      setProgress({ name, sent: wanted.kind === 'file' ? 0 : null, steps: [] });
      const job = crypto.randomUUID();
      const source = new EventSource(`/api/progress/${job}`);
      source.onmessage = (event: MessageEvent<string>) => {
        const step = v.safeParse(WorkStep, JSON.parse(event.data));
        if (step.success)
          setProgress((before) => (before === null ? null : { ...before, steps: [...before.steps, step.output.what] }));
      };
      try {
        const { status, body } = await posted(`/api/${address}?job=${job}&name=${encodeURIComponent(name)}`, bodyFor(wanted), {
          onSent: (sent) => setProgress((before) => (before === null ? null : { ...before, sent })),
        });
        const parsed = v.safeParse(schema, body);
        if (status < 300 && parsed.success) return { value: parsed.output };
        return { problem: failureMessage({ data: body }) };
      } catch {
        return { problem: 'The server does not answer. Nothing was brought in; try again when it is back.' };
      } finally {
        source.close();
        setProgress(null);
      }
    },
    [address, schema],
  );
  return { progress, send };
}

function nameOf(wanted: BringInSource): string {
  if (wanted.kind === 'file') return wanted.file.name;
  return wanted.kind === 'path' ? wanted.path : wanted.ask.address;
}

function bodyFor(wanted: BringInSource): File | object {
  if (wanted.kind === 'file') return wanted.file;
  return wanted.kind === 'path' ? { path: wanted.path } : wanted.ask;
}
