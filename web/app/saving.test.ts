import { configureStore } from '@reduxjs/toolkit';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { api } from './api.js';
import { draftOf, saving, settleClash, untilSaved } from './saving.js';
import { clashSettled, closed, opened, redone, textChanged, theirsCame, undone, workspace } from './workspace.js';

/** A server of one tree: revisions in order; it may be made to fail. */
class FakeServer {
  readonly revisions: string[] = ['first'];
  down = false;
  refusing: { status: number; message: string } | null = null;
  readonly asked: { text: string; basedOn: number }[] = [];

  async answer(request: Request | string): Promise<Response> {
    if (typeof request === 'string') {
      if (this.down) throw new TypeError('failed to fetch');
      return Response.json({});
    }
    const body = (await request.json()) as { text: string; basedOn: number };
    this.asked.push(body);
    if (this.down) throw new TypeError('failed to fetch');
    if (this.refusing !== null) return Response.json({ message: this.refusing.message }, { status: this.refusing.status });
    const latest = this.revisions.at(-1) ?? '';
    if (body.text === latest) return Response.json({ revision: this.revisions.length });
    if (body.basedOn !== this.revisions.length)
      return Response.json({ message: 'Somebody saved', revision: this.revisions.length, text: latest }, { status: 409 });
    this.revisions.push(body.text);
    return Response.json({ revision: this.revisions.length });
  }
}

let server: FakeServer;

const IN_USE = {
  kind: 'own file' as const,
  dialect: 'sqlite' as const,
  address: null,
  label: null,
  unlocked: false,
  passwordKept: false,
};

function newStore() {
  const store = configureStore({
    reducer: { workspace: workspace.reducer, api: api.reducer },
    middleware: (defaults) => defaults().prepend(saving.middleware).concat(api.middleware),
  });
  store.dispatch(
    opened({
      tree: { id: 't', title: 'T', kind: 'made', arrived: false, revision: 1, text: 'first', file: null, inUse: IN_USE },
      draft: null,
    }),
  );
  return store;
}

beforeEach(() => {
  vi.useFakeTimers();
  server = new FakeServer();
  const kept = new Map<string, string>();
  vi.stubGlobal('localStorage', {
    getItem: (name: string) => kept.get(name) ?? null,
    setItem: (name: string, value: string) => kept.set(name, value),
    removeItem: (name: string) => kept.delete(name),
  });
  vi.stubGlobal('fetch', (request: Request | string) => server.answer(request));
});

afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('saving', () => {
  test('happens within a second of the last keystroke, once for all of them', async () => {
    const store = newStore();
    for (const text of ['a', 'ab', 'abc']) {
      store.dispatch(textChanged(text));
      await vi.advanceTimersByTimeAsync(100);
    }
    expect(server.asked).toEqual([]);
    await vi.advanceTimersByTimeAsync(1000);
    expect(server.revisions).toEqual(['first', 'abc']);
    expect(store.getState().workspace).toMatchObject({ revision: 2, saving: { kind: 'saved' } });
    store.dispatch(closed());
  });

  test('keeps what is typed in the browser until the server has it', async () => {
    const store = newStore();
    store.dispatch(textChanged('typed'));
    await vi.advanceTimersByTimeAsync(1);
    expect(draftOf('t')).toEqual({ text: 'typed', basedOn: 1, base: 'first' });
    await vi.advanceTimersByTimeAsync(1000);
    expect(draftOf('t')).toBeNull();
    store.dispatch(closed());
  });

  test('what is typed while a save is under way is saved next, based on that one', async () => {
    const store = newStore();
    store.dispatch(textChanged('one'));
    await vi.advanceTimersByTimeAsync(601);
    store.dispatch(textChanged('two'));
    await vi.advanceTimersByTimeAsync(2000);
    expect(server.revisions).toEqual(['first', 'one', 'two']);
    expect(server.asked.map((asked) => asked.basedOn)).toEqual([1, 2]);
    store.dispatch(closed());
  });

  test('goes on trying while the server is gone, and says where the text is meanwhile', async () => {
    const store = newStore();
    server.down = true;
    store.dispatch(textChanged('offline'));
    await vi.advanceTimersByTimeAsync(1000);
    expect(store.getState().workspace.saving).toEqual({ kind: 'kept', message: expect.stringContaining('kept in this browser') });
    store.dispatch(textChanged('offline, more'));
    await vi.advanceTimersByTimeAsync(10_000);
    expect(draftOf('t')?.text).toBe('offline, more');
    server.down = false;
    await vi.advanceTimersByTimeAsync(5000);
    expect(server.revisions).toEqual(['first', 'offline, more']);
    expect(store.getState().workspace.saving.kind).toBe('saved');
    store.dispatch(closed());
  });

  test('stops at a refusal, and begins again with the next change', async () => {
    const store = newStore();
    server.refusing = { status: 413, message: 'Too long' };
    store.dispatch(textChanged('too long'));
    await vi.advanceTimersByTimeAsync(10_000);
    expect(server.asked.length).toBe(1);
    expect(store.getState().workspace.saving).toEqual({ kind: 'kept', message: 'Too long' });
    server.refusing = null;
    store.dispatch(textChanged('short'));
    await vi.advanceTimersByTimeAsync(1000);
    expect(server.revisions).toEqual(['first', 'short']);
    store.dispatch(closed());
  });

  test('stops at an answer that no server of this kind gives, as of a proxy that refuses', async () => {
    const store = newStore();
    vi.stubGlobal('fetch', () => {
      server.asked.push({ text: '', basedOn: 0 });
      return Promise.resolve(new Response('<h1>Too large</h1>', { status: 413 }));
    });
    store.dispatch(textChanged('large'));
    await vi.advanceTimersByTimeAsync(10_000);
    expect(server.asked.length).toBe(1);
    expect(store.getState().workspace.saving.kind).toBe('kept');
    expect(draftOf('t')?.text).toBe('large');
    store.dispatch(closed());
  });

  test('a draft that a page left behind is saved when the tree is opened again', async () => {
    const store = newStore();
    store.dispatch(
      opened({
        tree: { id: 't', title: 'T', kind: 'made', arrived: false, revision: 1, text: 'first', file: null, inUse: IN_USE },
        draft: { text: 'left behind', basedOn: 1 },
      }),
    );
    await vi.advanceTimersByTimeAsync(1000);
    expect(server.revisions).toEqual(['first', 'left behind']);
    store.dispatch(closed());
  });
});

test('a tree that is closed before it was saved is saved all the same', async () => {
  const store = newStore();
  store.dispatch(textChanged('typed and gone'));
  await vi.advanceTimersByTimeAsync(100);
  store.dispatch(closed());
  await vi.advanceTimersByTimeAsync(3000);
  expect(server.revisions).toEqual(['first', 'typed and gone']);
  expect(draftOf('t')).toBeNull();
});

describe('a clash', () => {
  async function clash() {
    const store = newStore();
    server.revisions.push('theirs');
    store.dispatch(textChanged('mine'));
    await vi.advanceTimersByTimeAsync(1000);
    const state = store.getState().workspace.saving;
    if (state.kind !== 'conflict') throw new Error('no conflict');
    return { store, conflict: state.conflict };
  }

  test('is never settled by itself: nothing is overwritten, and what is typed on is kept', async () => {
    const { store, conflict } = await clash();
    expect(conflict).toEqual({ message: 'Somebody saved', revision: 2, text: 'theirs' });
    store.dispatch(textChanged('mine, and on'));
    await vi.advanceTimersByTimeAsync(5000);
    expect(server.revisions).toEqual(['first', 'theirs']);
    expect(draftOf('t')?.text).toBe('mine, and on');
    store.dispatch(closed());
  });

  test.each([
    ['mine', 'mine', ['first', 'theirs', 'mine']],
    ['theirs', 'theirs', ['first', 'theirs', 'mine', 'theirs']],
    ['some of both', 'both', ['first', 'theirs', 'mine', 'both']],
  ])('settled for %s, both sides are revisions', async (_name, chosen, revisions) => {
    const { store, conflict } = await clash();
    const result = await settleClash(store.dispatch, 't', { mine: 'mine', theirs: conflict.text, chosen }, conflict.revision);
    expect(server.revisions).toEqual(revisions);
    expect(result).toEqual({ kind: 'saved', revision: revisions.length });
    store.dispatch(clashSettled({ text: chosen, revision: revisions.length }));
    expect(store.getState().workspace).toMatchObject({ text: chosen, revision: revisions.length, saving: { kind: 'saved' } });
    store.dispatch(closed());
  });

  test('with the bound file, what the file had is a revision too, whatever is chosen', async () => {
    const store = newStore();
    await settleClash(store.dispatch, 't', { mine: 'mine', theirs: 'of the file', chosen: 'mine' }, 1, 'of the file');
    expect(server.revisions).toEqual(['first', 'mine', 'of the file', 'mine']);
    store.dispatch(closed());
  });

  test('that another save overtakes is told, and nothing is written over', async () => {
    const { store, conflict } = await clash();
    server.revisions.push('a third');
    const result = await settleClash(store.dispatch, 't', { mine: 'mine', theirs: 'theirs', chosen: 'both' }, conflict.revision);
    expect(result.kind).toBe('conflict');
    expect(server.revisions).toEqual(['first', 'theirs', 'a third']);
    store.dispatch(closed());
  });
});

describe('waiting until a text is saved', () => {
  test('ends when it is, and does not wait for ever', async () => {
    const store = newStore();
    store.dispatch(textChanged('soon'));
    let done = false;
    void untilSaved(() => store.getState().workspace).then(() => {
      done = true;
    });
    await vi.advanceTimersByTimeAsync(100);
    expect(done).toBe(false);
    await vi.advanceTimersByTimeAsync(1000);
    expect(done).toBe(true);
    store.dispatch(closed());
  });
});

test('a draft that is no draft is none', () => {
  localStorage.setItem('family-tree.draft.t', '{"text":1}');
  expect(draftOf('t')).toBeNull();
  localStorage.setItem('family-tree.draft.t', 'nonsense');
  expect(draftOf('t')).toBeNull();
});

describe('the text of somebody else', () => {
  test('that does not clash is brought together with one’s own, and saved', async () => {
    const store = newStore();
    server.revisions[0] = 'a\nb\nc\n';
    store.dispatch(
      opened({
        tree: { id: 't', title: 'T', kind: 'made', arrived: false, revision: 1, text: 'a\nb\nc\n', file: null, inUse: IN_USE },
        draft: null,
      }),
    );
    server.revisions.push('a\nb\nc\ntheirs\n');
    store.dispatch(textChanged('mine\na\nb\nc\n'));
    await vi.advanceTimersByTimeAsync(3000);
    expect(server.revisions.at(-1)).toBe('mine\na\nb\nc\ntheirs\n');
    expect(store.getState().workspace).toMatchObject({
      text: 'mine\na\nb\nc\ntheirs\n',
      saving: { kind: 'saved' },
      broughtIn: 1,
    });
    store.dispatch(closed());
  });

  test('replaces a text that was not touched here, and is not saved again', async () => {
    const store = newStore();
    store.dispatch(theirsCame({ message: '', revision: 2, text: 'theirs' }));
    await vi.advanceTimersByTimeAsync(3000);
    expect(store.getState().workspace).toMatchObject({ text: 'theirs', revision: 2, saving: { kind: 'saved' } });
    expect(server.asked).toEqual([]);
    store.dispatch(closed());
  });

  test('what is taken back is saved too', async () => {
    const store = newStore();
    store.dispatch(textChanged('second', 'a click'));
    await vi.advanceTimersByTimeAsync(1000);
    store.dispatch(undone());
    await vi.advanceTimersByTimeAsync(1000);
    store.dispatch(redone());
    await vi.advanceTimersByTimeAsync(1000);
    expect(server.revisions).toEqual(['first', 'second', 'first', 'second']);
    store.dispatch(closed());
  });
});
