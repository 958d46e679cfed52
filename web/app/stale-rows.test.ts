import { configureStore } from '@reduxjs/toolkit';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { DatabaseState } from '../../contract/index.js';
import { actor } from './actor.js';
import { api, failureMessage } from './api.js';
import { staleRows } from './stale-rows.js';
import { databaseChanged, opened, workspace } from './workspace.js';

const IN_USE = { kind: 'own file', dialect: 'sqlite', address: null, label: null, unlocked: false, passwordKept: false } as const;

const ready = (revision: number): DatabaseState => ({
  status: 'ready',
  revision,
  kind: 'made',
  rows: {},
  unsatisfied: [],
  unheld: [],
  absent: [],
  written: [],
  locked: null,
  milliseconds: 1,
});

/** Answers with how many rows there are now; an answer can be held back. */
let rows = 1;
let asked: string[] = [];
let held: Promise<void> | null = null;

function newStore() {
  const store = configureStore({
    reducer: { workspace: workspace.reducer, actor: actor.reducer, api: api.reducer },
    middleware: (defaults) => defaults().prepend(staleRows.middleware).concat(api.middleware),
  });
  const tree = { id: 't', title: 'T', kind: 'made', arrived: false, revision: 1, text: '', file: null, inUse: IN_USE } as const;
  store.dispatch(opened({ tree, draft: null }));
  store.dispatch(databaseChanged(ready(1)));
  return store;
}

beforeEach(() => {
  rows = 1;
  asked = [];
  held = null;
  vi.stubGlobal('fetch', async (request: Request) => {
    asked.push(new URL(request.url).pathname);
    const answer = { rows: { Loan: rows } };
    const waits = held;
    if (waits !== null)
      await new Promise<void>((resolve, reject) => {
        request.signal.addEventListener('abort', () => reject(new DOMException('Ended', 'AbortError')));
        void waits.then(resolve);
      });
    return Response.json(answer);
  });
});
afterEach(() => vi.unstubAllGlobals());

const counts = api.endpoints.entityCounts;

describe('rows that were made anew', () => {
  test('are read again where they are in view, and only there', async () => {
    const store = newStore();
    const seen = store.dispatch(counts.initiate({ tree: 't' }));
    const other = store.dispatch(counts.initiate({ tree: 'u' }));
    await Promise.all([seen, other]);
    rows = 2;
    store.dispatch(databaseChanged({ status: 'making', revision: 2 }));
    expect(asked.length).toBe(2);
    store.dispatch(databaseChanged(ready(2)));
    await vi.waitFor(() => expect(counts.select({ tree: 't' })(store.getState()).data?.rows).toEqual({ Loan: 2 }));
    expect(counts.select({ tree: 'u' })(store.getState()).data?.rows).toEqual({ Loan: 1 });
    expect(asked.filter((path) => path.includes('/u/')).length).toBe(1);
  });

  test('are not answered for by what was asked before: that is asked anew', async () => {
    const store = newStore();
    let answer = (): void => undefined;
    held = new Promise((resolve) => {
      answer = resolve;
    });
    const first = store.dispatch(counts.initiate({ tree: 't' }));
    await vi.waitFor(() => expect(asked.length).toBe(1));
    rows = 2;
    store.dispatch(databaseChanged({ status: 'making', revision: 2 }));
    store.dispatch(databaseChanged(ready(2)));
    await vi.waitFor(() => expect(asked.length).toBe(2));
    answer();
    expect((await first).data).toEqual({ rows: { Loan: 2 } });
  });

  test('that are said to be ready a second time are the same, and nothing is asked', async () => {
    const store = newStore();
    await store.dispatch(counts.initiate({ tree: 't' }));
    store.dispatch(databaseChanged(ready(1)));
    await new Promise((resolve) => setTimeout(resolve, 20));
    expect(asked.length).toBe(1);
  });
});

test('an answer that the page does not know is told as such, and nothing of it is taken', async () => {
  vi.stubGlobal('fetch', () => Promise.resolve(Response.json({ rows: 'many' })));
  const store = newStore();
  const { data, error } = await store.dispatch(counts.initiate({ tree: 't' }));
  expect(data).toBeUndefined();
  expect(failureMessage(error)).toContain('Load the page again');
});
