import * as v from 'valibot';
import { Tree } from '../../contract/index.js';
import { spokenBy } from '../app/spoken-by.js';
import { answers } from './answer.js';
import type { AskKind, Asks } from './asks.js';

interface WorkerQuestion<K extends AskKind> {
  readonly id: number;
  readonly kind: K;
  readonly ask: Asks[K][0];
}

/** The tree that the page is about to open. */
interface Opening {
  readonly opening: string;
}

// Reading, resolving and laying out run here, so that typing never waits for them.
self.onmessage = <K extends AskKind>({ data }: MessageEvent<WorkerQuestion<K> | Opening>) => {
  if ('opening' in data) {
    void readAhead(data.opening).catch(() => undefined);
    return;
  }
  const { id, kind, ask } = data;
  try {
    self.postMessage({ id, answer: answers[kind](ask) });
  } catch (error) {
    self.postMessage({ id, failed: error instanceof Error ? error.message : String(error) });
  }
};

/** Reads a tree's text while the page's own code is still on its way; what is asked of it then is answered at once. */
async function readAhead(id: string): Promise<void> {
  const response = await fetch(`/api/trees/${id}`);
  const tree = v.parse(Tree, await response.json());
  answers.view({ text: tree.text, dialect: spokenBy(tree) });
}
