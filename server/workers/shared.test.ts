import { expect, test } from 'vitest';
import { Shared } from './shared.js';

/** Work that ends when it is told to, or is stopped. */
function work() {
  let finish = (_value: string) => {};
  const shared = new Shared<string>(
    (signal) =>
      new Promise((resolve) => {
        finish = resolve;
        signal.addEventListener('abort', () => resolve('stopped'));
      }),
  );
  return { shared, finish: (value: string) => finish(value) };
}

test('work that two wait for goes on when one of them goes, and ends when both have', async () => {
  const { shared } = work();
  const [first, second] = [new AbortController(), new AbortController()];
  const waiting = [shared.wait(first.signal), shared.wait(second.signal)];
  first.abort();
  expect(shared.stopped).toBe(false);
  second.abort();
  expect(shared.stopped).toBe(true);
  expect(await Promise.all(waiting)).toEqual(['stopped', 'stopped']);
});

test('whoever goes after the work is done stops nothing', async () => {
  const { shared, finish } = work();
  const one = new AbortController();
  const waiting = shared.wait(one.signal);
  finish('done');
  expect(await waiting).toBe('done');
  one.abort();
  expect(shared.stopped).toBe(false);
});
