import { answers } from './answer.js';
import type { AskKind, Asks } from './asks.js';

// Reading, resolving and laying out run here, so that typing never waits for them.
self.onmessage = <K extends AskKind>(event: MessageEvent<{ id: number; kind: K; ask: Asks[K][0] }>) => {
  const { id, kind, ask } = event.data;
  try {
    self.postMessage({ id, answer: answers[kind](ask) });
  } catch (error) {
    self.postMessage({ id, failed: error instanceof Error ? error.message : String(error) });
  }
};
