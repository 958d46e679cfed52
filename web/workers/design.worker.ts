import * as v from 'valibot';
import { spokenBy, Tree } from '../../contract/index.js';
import { WHOLE_MAP } from '../../core/view-models/index.js';
import type { AskKind, Asks } from './asks.js';
import { type FirstKind, firstAnswers } from './first-answers.js';

interface WorkerQuestion<K extends AskKind> {
  readonly id: number;
  readonly kind: K;
  readonly ask: Asks[K][0];
}

type Answer = (kind: AskKind, ask: never) => unknown;

/** The answers to all but the first picture. */
let later: Promise<Answer> | null = null;

/** Sends for the code of the later answers. Where it does not come, it is sent for again when the next of them is asked for. */
function answersLater(): Promise<Answer> {
  later ??= import('./later-answers.js').then(
    ({ laterAnswers }) =>
      (kind, ask) =>
        laterAnswers[kind as keyof typeof laterAnswers](ask),
    (error: unknown) => {
      later = null;
      throw error;
    },
  );
  return later;
}

/** How long after the first question the code of the later answers is sent for, in milliseconds: the first picture is drawn by then. */
const AFTER_FIRST = 1000;

let isAsked = false;
/** Questions are answered in turn, also where one waits for code. */
let last: Promise<void> | null = null;

// Reading, resolving and laying out run here, so that typing never waits for them.
self.onmessage = ({ data }: MessageEvent<WorkerQuestion<AskKind>>) => {
  if (!isAsked) setTimeout(() => void answersLater().catch(() => undefined), AFTER_FIRST);
  isAsked = true;
  const { kind, ask } = data;
  if (last === null && isFirst(kind)) {
    tell(data.id, () => firstAnswers[kind](ask as never));
    return;
  }
  const turn = (last ?? Promise.resolve()).then(() => answerInTurn(data));
  last = turn;
  void turn.then(() => {
    if (last === turn) last = null;
  });
};

async function answerInTurn({ id, kind, ask }: WorkerQuestion<AskKind>): Promise<void> {
  if (isFirst(kind)) {
    tell(id, () => firstAnswers[kind](ask as never));
    return;
  }
  try {
    const answer = await answersLater();
    tell(id, () => answer(kind, ask as never));
  } catch (error) {
    tellFailed(id, error);
  }
}

function isFirst(kind: AskKind): kind is FirstKind {
  return kind in firstAnswers;
}

function tell(id: number, work: () => unknown): void {
  try {
    self.postMessage({ id, answer: work() });
  } catch (error) {
    tellFailed(id, error);
  }
}

function tellFailed(id: number, error: unknown): void {
  self.postMessage({ id, failed: error instanceof Error ? error.message : String(error) });
}

/** Reads the text of the tree that the page is about to open, while the page's own code is run: what is asked of it then is answered at once. */
async function readAhead(tree: string): Promise<void> {
  const response = await fetch(`/api/trees/${tree}`);
  const { text, kind, inUse } = v.parse(Tree, await response.json());
  // Whoever asked first asked of a text that they have.
  if (isAsked) return;
  firstAnswers.view({ text, dialect: spokenBy({ kind, inUse }) });
  firstAnswers.map({ text, ...WHOLE_MAP });
}

if (self.name !== '') void readAhead(self.name).catch(() => undefined);
