/** Works that go wrong in each way, to try a worker with. */
import { answering } from '../../server/workers/answering.js';

let remembered: unknown = null;

answering({
  remember: (argument) => {
    remembered = argument;
  },
  recall: () => remembered,
  echo: (argument) => argument,
  later: (argument) => new Promise((resolve) => setTimeout(() => resolve(argument), 300)),
  stuck: () => {
    for (;;);
  },
  grow: () => {
    const all: unknown[] = [];
    for (;;) all.push(Array.from({ length: 1000 }, () => ({ a: 1 })));
  },
  wrong: () => {
    throw new Error('it went wrong');
  },
  end: () => process.exit(3),
  stopped: (_argument, { signal }) =>
    new Promise((resolve) => signal.addEventListener('abort', () => resolve('it was stopped'), { once: true })),
});
