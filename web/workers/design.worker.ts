import * as v from 'valibot';
import { Tree } from '../../contract/index.js';
import { spokenBy } from '../app/spoken-by.js';
import type { AskKind, Asks } from './asks.js';
import { type FirstKind, firstAnswers } from './first-answers.js';
import { wholeMapOf } from './whole-map.js';

interface WorkerQuestion<K extends AskKind> {
  readonly id: number;
  readonly kind: K;
  readonly ask: Asks[K][0];
}

/** The answers to all but the first picture: their code is sent for once that is drawn, or when it is first asked for. */
let later: Promise<Answer> | null = null;

type Answer = (kind: AskKind, ask: never) => unknown;

function answersLater(): Promise<Answer> {
  later ??= import('./later-answers.js').then(
    ({ laterAnswers }) =>
      (kind, ask) =>
        laterAnswers[kind as keyof typeof laterAnswers](ask),
  );
  return later;
}

/** Questions are answered in turn, also where one waits for code. */
let last: Promise<unknown> | null = null;

// Reading, resolving and laying out run here, so that typing never waits for them.
self.onmessage = ({ data: { id, kind, ask } }: MessageEvent<WorkerQuestion<AskKind>>) => {
  if (last === null && isFirst(kind)) {
    tell(id, () => firstAnswers[kind](ask as never));
    if (kind === 'map') setTimeout(() => void answersLater());
    return;
  }
  const before = last ?? Promise.resolve();
  const turn = before.then(async () => {
    const answer = isFirst(kind) ? null : await answersLater();
    tell(id, () => (answer === null ? firstAnswers[kind as FirstKind](ask as never) : answer(kind, ask as never)));
  });
  const done = turn.finally(() => {
    if (last === done) last = null;
  });
  last = done;
};

function isFirst(kind: AskKind): kind is FirstKind {
  return kind in firstAnswers;
}

function tell(id: number, work: () => unknown): void {
  try {
    self.postMessage({ id, answer: work() });
  } catch (error) {
    self.postMessage({ id, failed: error instanceof Error ? error.message : String(error) });
  }
}

/** Reads the text of the tree that the page is about to open, while the page's own code is run: what is asked of it then is answered at once. */
async function readAhead(tree: string): Promise<void> {
  const response = await fetch(`/api/trees/${tree}`);
  const { text, kind, inUse } = v.parse(Tree, await response.json());
  firstAnswers.view({ text, dialect: spokenBy({ kind, inUse }) });
  firstAnswers.map(wholeMapOf(text));
}

if (self.name !== '') void readAhead(self.name).catch(() => undefined);
