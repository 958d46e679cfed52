import type { AskKind, Asks } from '../workers/asks.js';
import DesignWorker from '../workers/design.worker.js?worker';

interface Waiting {
  resolve(answer: unknown): void;
  reject(error: Error): void;
}

let worker: Worker | null = null;
let next = 1;
const waiting = new Map<number, Waiting>();

interface Ahead {
  readonly question: string;
  readonly answer: Promise<unknown>;
  /** Where it is known already. */
  readonly known?: unknown;
}

/** What was asked before the screens were there, one question of a kind; the first of that kind that a screen asks takes or drops it. */
const ahead = new Map<AskKind, Ahead>();

/** The text whose view was told; the worker reads it first, so that it knows of which dialect what follows is. */
let told: Asks['view'][0] | null = null;

/** Asks what a screen is going to ask, before its code is there. */
export function askDesignAhead<K extends AskKind>(kind: K, ask: Asks[K][0]): void {
  ahead.set(kind, { question: JSON.stringify(ask), answer: askDesign(kind, ask) });
}

/** Notes what a screen is going to ask with its answer, which was told: nobody needs to be asked. */
export function tellDesignAhead<K extends AskKind>(kind: K, ask: Asks[K][0], answer: Asks[K][1]): void {
  ahead.set(kind, { question: JSON.stringify(ask), answer: Promise.resolve(answer), known: answer });
}

/** Notes the view of a text that was told. */
export function tellViewAhead(ask: Asks['view'][0], view: Asks['view'][1]): void {
  told = ask;
  tellDesignAhead('view', ask, view);
}

/** The answer that was told to what is going to be asked; undefined where none was. */
export function toldAhead<K extends AskKind>(kind: K, ask: Asks[K][0]): Asks[K][1] | undefined {
  const before = ahead.get(kind);
  // It was told as the answer to this kind of question.
  return before?.question === JSON.stringify(ask) ? (before.known as Asks[K][1] | undefined) : undefined;
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
  // Nobody waits for what is known.
  if (told !== null) started.postMessage({ id: 0, kind: 'view', ask: told });
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
