import { describe, expect, test } from 'vitest';
import { storedTree } from '../../tests/stored-tree.js';
import { Openings } from './openings.js';

/** Reads texts as a process would, and notes which. */
function reading(read: (text: string) => Promise<string>) {
  const texts: string[] = [];
  const does = (_name: string, [text]: readonly [string, ...unknown[]]) => {
    texts.push(text);
    return text === '' ? Promise.resolve('{}') : read(text);
  };
  return { texts, openings: new Openings({ does } as never) };
}

const settled = () => new Promise((resolve) => setTimeout(resolve));

describe('what a tree is opened with', () => {
  test('is not waited for until whatever reads texts has begun, and is there afterwards', async () => {
    const { openings } = reading((text) => Promise.resolve(`read ${text}`));
    expect(await openings.of(storedTree('a', 'entity A'))).toBeNull();
    await settled();
    expect(await openings.of(storedTree('a', 'entity A'))).toBe('read entity A');
  });

  test('is read once for a revision, and anew for the next', async () => {
    const { openings, texts } = reading((text) => Promise.resolve(text));
    openings.begin();
    await settled();
    await openings.of(storedTree('a', 'entity A'));
    await openings.of(storedTree('a', 'entity A'));
    expect(await openings.of(storedTree('a', 'entity B', 2))).toBe('entity B');
    expect(texts).toEqual(['', 'entity A', 'entity B']);
  });

  test('is left to the browser where a text is too long, takes too long, or cannot be read', async () => {
    const { openings } = reading((text) => (text === 'slow' ? new Promise(() => undefined) : Promise.reject(new Error(text))));
    openings.begin();
    await settled();
    expect(await openings.of(storedTree('a', 'x'.repeat(100_001)))).toBeNull();
    expect(await openings.of(storedTree('b', 'slow'))).toBeNull();
    expect(await openings.of(storedTree('c', 'broken'))).toBeNull();
  });

  test('is kept for the trees that were opened last', async () => {
    const { openings, texts } = reading((text) => Promise.resolve(text));
    openings.begin();
    await settled();
    for (let at = 0; at < 20; at++) await openings.of(storedTree(`tree ${at}`, `text ${at}`));
    await openings.of(storedTree('tree 19', 'text 19'));
    expect(texts).toHaveLength(21);
    await openings.of(storedTree('tree 0', 'text 0'));
    expect(texts).toHaveLength(22);
  });
});
