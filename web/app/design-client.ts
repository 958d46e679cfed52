import type { AskKind, Asks } from '../workers/asks.js';

interface Waiting {
  resolve(answer: unknown): void;
  reject(error: Error): void;
}

let worker: Worker | null = null;
let next = 1;
const waiting = new Map<number, Waiting>();

/** Asks the worker that reads texts. Questions are answered in turn. */
export function askDesign<K extends AskKind>(kind: K, ask: Asks[K][0]): Promise<Asks[K][1]> {
  worker ??= start();
  const id = next++;
  return new Promise((resolve, reject) => {
    // The worker answers each question with its own kind of answer.
    waiting.set(id, { resolve: (answer) => resolve(answer as Asks[K][1]), reject });
    worker?.postMessage({ id, kind, ask });
  });
}

function start(): Worker {
  const started = new Worker(new URL('../workers/design.worker.ts', import.meta.url), { type: 'module' });
  started.onmessage = (event: MessageEvent<{ id: number; answer?: unknown; failed?: string }>) => {
    const { id, answer, failed } = event.data;
    const call = waiting.get(id);
    waiting.delete(id);
    if (failed === undefined) call?.resolve(answer);
    else call?.reject(new Error(failed));
  };
  return started;
}

/**
 * Asks one kind of question of texts that change quickly: while an answer is under way only the latest question
 * counts, and those between are dropped.
 */
export function latestOnly<K extends AskKind>(kind: K, done: (answer: Asks[K][1]) => void): (ask: Asks[K][0]) => void {
  let busy = false;
  let wanted: Asks[K][0] | null = null;
  const run = (ask: Asks[K][0]) => {
    busy = true;
    void askDesign(kind, ask)
      .then(done, () => undefined)
      .then(() => {
        busy = false;
        const following = wanted;
        wanted = null;
        if (following !== null) run(following);
      });
  };
  return (ask) => {
    if (busy) wanted = ask;
    else run(ask);
  };
}
