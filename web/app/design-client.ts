import type { AskKind, Asks } from '../workers/asks.js';
import DesignWorker from '../workers/design.worker.js?worker';

interface Waiting {
  resolve(answer: unknown): void;
  reject(error: Error): void;
}

let worker: Worker | null = null;
let next = 1;
const waiting = new Map<number, Waiting>();

/** What was asked before the screens were there, one question of a kind; the first of that kind that a screen asks takes or drops it. */
const ahead = new Map<AskKind, { readonly question: string; readonly answer: Promise<unknown> }>();

/** Asks what a screen is going to ask, before its code is there. */
export function askDesignAhead<K extends AskKind>(kind: K, ask: Asks[K][0]): void {
  ahead.set(kind, { question: JSON.stringify(ask), answer: askDesign(kind, ask) });
}

/** Asks the worker that reads texts. Questions are answered in turn. */
export function askDesign<K extends AskKind>(kind: K, ask: Asks[K][0]): Promise<Asks[K][1]> {
  const before = ahead.get(kind);
  ahead.delete(kind);
  // It was asked with the same kind, and is answered so.
  if (before !== undefined && before.question === JSON.stringify(ask)) return before.answer as Promise<Asks[K][1]>;
  const id = next++;
  return new Promise((resolve, reject) => {
    // The worker answers each question with its own kind of answer.
    waiting.set(id, { resolve: (answer) => resolve(answer as Asks[K][1]), reject });
    startDesign().postMessage({ id, kind, ask });
  });
}

/**
 * Starts the worker that reads texts, where it is not at work yet.
 *
 * @param tree which the page is about to open. A message would reach the worker only when the page's own code has been run; its name
 *   is there at once, so that the text is read meanwhile. Left out, none
 */
export function startDesign(tree = ''): Worker {
  worker ??= start(tree);
  return worker;
}

function start(tree: string): Worker {
  const started = new DesignWorker({ name: tree });
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
