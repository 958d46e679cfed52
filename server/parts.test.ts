import { existsSync, mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import * as v from 'valibot';
import { afterAll, describe, expect, test, vi } from 'vitest';
import { DatabaseState, LONGEST_TEXT, NewTree, Run, RunResult, SaveText } from '../contract/index.js';
import { temporaryFolder } from '../tests/database.js';
import { processesBelow } from '../tests/processes.js';
import { storedTree } from '../tests/stored-tree.js';
import { Databases, PlacesInUse } from './jobs/index.js';
import { pageFor, treeOfAddress } from './page/index.js';
import { titleIn } from './routes/messages.js';
import { Store, type StoredTree } from './store/index.js';

const folder = temporaryFolder();
afterAll(() => folder.remove());

describe('the store', () => {
  const store = new Store(join(folder.path, 'store.db'));

  test('gives trees with the newest text, the last saved first', () => {
    const first = store.add('First', 'one', 'made', null);
    const second = store.add('Second', 'two', 'brought in', 'x.db');
    expect(store.save(first.id, 'one more', 'First, renamed', 1)).toEqual({ kind: 'saved', revision: 2 });
    expect(store.trees().map(({ title, text, revision }) => [title, text, revision])).toContainEqual([
      'First, renamed',
      'one more',
      2,
    ]);
    expect(store.tree(second.id)).toMatchObject({ kind: 'brought in', database: 'x.db', revision: 1 });
    expect(store.tree('nothing')).toBeNull();
  });

  test('saves the same text once, whatever it is based on', () => {
    const tree = store.add('Same', 'text', 'made', null);
    expect(store.save(tree.id, 'text', 'Same', 99)).toEqual({ kind: 'saved', revision: 1 });
    expect(store.revisions(tree.id).length).toBe(1);
  });

  test('never saves over a revision that the text is not based on', () => {
    const tree = store.add('Clash', 'a', 'made', null);
    store.save(tree.id, 'b', 'Clash', 1);
    expect(store.save(tree.id, 'c', 'Clash', 1)).toMatchObject({ kind: 'conflict', latest: { text: 'b', revision: 2 } });
    expect(store.save('nothing', 'c', 'Clash', 1)).toEqual({ kind: 'missing' });
    expect(store.revision(tree.id, 3)).toBeNull();
  });

  test('keeps every revision, the newest first in the list', () => {
    const tree = store.add('Many', 'r1', 'made', null);
    for (let revision = 1; revision < 20; revision++) store.save(tree.id, `r${revision + 1}`, 'Many', revision);
    expect(store.revisions(tree.id).map(({ number }) => number)).toEqual(Array.from({ length: 20 }, (_, index) => 20 - index));
    for (const number of [1, 7, 20]) expect(store.revision(tree.id, number)?.text).toBe(`r${number}`);
  });

  test('keeps preferences, the later over the earlier', () => {
    store.setPreference('theme', 'light');
    store.setPreference('theme', 'dark');
    store.setPreference('panes design', '{}');
    expect(store.preferences()).toEqual({ theme: 'dark', 'panes design': '{}' });
  });

  test('is there again when it is opened again', () => {
    const path = join(folder.path, 'again.db');
    const before = new Store(path);
    const tree = before.add('Kept', 'text', 'made', null);
    before.close();
    const after = new Store(path);
    expect(after.tree(tree.id)?.text).toBe('text');
    after.close();
  });
});

describe('a tree’s title', () => {
  test.each([
    ["tree 'Library'\n", 'Library'],
    ["-- first\ntree 'It''s mine'\n", "It's mine"],
    ['entity A\n', 'Untitled'],
    ["tree 'open\n", 'Untitled'],
  ])('of %s is %s', (text, title) => {
    expect(titleIn(text)).toBe(title);
  });
});

describe('the databases of the open trees', () => {
  const tree = (text: string, revision: number, more: Partial<StoredTree> = {}): StoredTree => ({
    ...storedTree('tree', text, revision),
    ...more,
  });
  const text = (name: string) => `entity A\n  id integer key\n  name text(9)\n\nsample A\n  x: name '${name}'\n`;

  const opened = () => {
    const path = temporaryFolder();
    const store = new Store(join(path.path, 'family-tree.db'));
    const databases = new Databases(path.path, store, new PlacesInUse(path.path), (error) => {
      throw error;
    });
    const close = async () => {
      await databases.close();
      store.close();
      path.remove();
    };
    return { path: path.path, databases, close };
  };
  const namesIn = async (databases: Databases, of: StoredTree): Promise<unknown> => {
    const answer = await databases.ask(of, 'run', { query: { kind: 'text', text: 'from A', head: '' }, parameters: {} });
    const result = v.parse(RunResult, JSON.parse('json' in answer ? answer.json : '{}'));
    const rows = result.ok ? (JSON.parse(result.text) as { name: string }[]) : [];
    return result.ok ? [result.revision, ...rows.map(({ name }) => name)] : result.problems;
  };

  test('are made anew from each text, the old file removed, and only the last of several asked for at once', async () => {
    const { path, databases, close } = opened();
    const states: DatabaseState[] = [];
    const unwatch = databases.watch(tree(text('one'), 1), (state) => states.push(state));
    expect(await namesIn(databases, tree(text('one'), 1))).toEqual([1, 'one']);
    databases.renew(tree(text('two'), 2));
    databases.renew(tree(text('three'), 3));
    expect(await namesIn(databases, tree(text('three'), 3))).toEqual([3, 'three']);
    expect(readdirSync(path).filter((file) => /scratch.*\.db$/.test(file))).toEqual(['tree.scratch-3.db']);
    expect(states.filter((state) => state.status === 'ready').map((state) => state.revision)).toEqual([1, 3]);
    unwatch();
    await close();
  });

  test('that nobody looks at are closed, all of them, and opened again when they are asked', async () => {
    const path = temporaryFolder();
    const store = new Store(join(path.path, 'family-tree.db'));
    const databases = new Databases(path.path, store, new PlacesInUse(path.path), () => undefined, 400);
    const trees = ['a', 'b', 'c'].map((id) => tree(text(id), 1, { id }));
    const unwatch = databases.watch(trees[0] ?? tree(text('a'), 1), () => undefined);
    for (const one of trees) expect(await namesIn(databases, one)).toEqual([1, one.id]);
    await vi.waitFor(() => expect(databases.open).toBe(1), { timeout: 10_000 });
    unwatch();
    await vi.waitFor(() => expect(databases.open).toBe(0), { timeout: 10_000 });
    await vi.waitFor(() => expect(readdirSync(path.path).filter((file) => file.includes('.scratch-'))).toEqual([]), {
      timeout: 10_000,
    });
    expect(await namesIn(databases, tree(text('c'), 1, { id: 'c' }))).toEqual([1, 'c']);
    await databases.close();
    store.close();
    path.remove();
  });

  test('that were made here and are gone are made again', async () => {
    const { path, databases, close } = opened();
    const one = tree(text('one'), 1);
    expect(await namesIn(databases, one)).toEqual([1, 'one']);
    rmSync(join(path, 'tree.scratch-1.db'));
    const scratch = join(path, 'tree.scratch-1.db');
    for (const { id, program } of processesBelow(process.pid)) if (program.includes(scratch)) process.kill(id, 'SIGKILL');
    await namesIn(databases, one);
    expect(await namesIn(databases, one)).toEqual([1, 'one']);
    await close();
  });

  test('that were brought in are looked at, and tell what the text has and they have not', async () => {
    const { path, databases, close } = opened();
    new Database(join(path, 'mine.db')).exec('create table "as" (id integer primary key)').close();
    const state = await new Promise<DatabaseState>((resolve) => {
      databases.watch(
        tree(text('x'), 1, { kind: 'brought in', database: 'mine.db' }),
        (told) => told.status !== 'making' && resolve(told),
      );
    });
    expect(state).toMatchObject({ status: 'ready', kind: 'brought in', absent: [{ owner: 'A', table: 'as', column: 'name' }] });
    await close();
  });

  test('one whose file is gone is told, and the server goes on', async () => {
    const { path, databases, close } = opened();
    const lost = tree(text('x'), 1, { kind: 'brought in', database: 'gone.db', title: 'Lost' });
    databases.renew(lost);
    const states: DatabaseState[] = [];
    await vi.waitFor(
      () => {
        databases.watch(lost, (state) => states.push(state))();
        expect(states.at(-1)).toMatchObject({ status: 'failed', message: expect.stringContaining('Lost cannot be opened') });
      },
      { timeout: 10_000 },
    );
    expect(existsSync(join(path, 'gone.db'))).toBe(false);
    await close();
  });
});

describe('the contract', () => {
  test.each([
    ['a tree from nowhere', NewTree, { from: 'nowhere' }],
    ['a text that is none', NewTree, { from: 'text', text: 7 }],
    ['a text too long', SaveText, { text: 'x'.repeat(LONGEST_TEXT + 1), basedOn: 1 }],
    ['a revision that is no number', SaveText, { text: 'x', basedOn: '1' }],
    ['a revision that is no whole number', SaveText, { text: 'x', basedOn: 1.5 }],
    ['a query of no sort', Run, { query: { kind: 'script', text: 'drop table x' }, parameters: {} }],
    ['a parameter that is an object', Run, { query: { kind: 'saved', name: 'q' }, parameters: { a: {} } }],
    ['an answer without rows', RunResult, { ok: true }],
    ['a state of no sort', DatabaseState, { status: 'lost' }],
  ])('refuses %s', (_name, schema, message) => {
    expect(v.safeParse(schema, message).success).toBe(false);
  });

  test.each([
    ['an empty tree', NewTree, { from: 'empty' }],
    ['a text', NewTree, { from: 'text', text: '' }],
    ['a typed query', Run, { query: { kind: 'text', text: 'from A', head: '' }, parameters: { a: null, b: 'x' } }],
    ['a refusal', RunResult, { ok: false, findings: [], problems: ['x'] }],
  ])('takes %s', (_name, schema, message) => {
    expect(v.safeParse(schema, message).success).toBe(true);
  });
});

describe('the page', () => {
  const built = join(folder.path, 'built');
  const chunk = (file: string, imports: readonly string[] = []) => ({ file: `assets/${file}.js`, imports });

  test('of an address links the code of its screen, and of no other', () => {
    expect(pageFor(built, '/', 'once')).toBeNull();
    mkdirSync(built);
    writeFileSync(join(built, 'index.html'), '<head><meta content="__NONCE__"></head>');
    const manifest = {
      'app/page.tsx': chunk('page', ['_shared.js']),
      '_shared.js': chunk('shared'),
      'screens/design/index.tsx': chunk('design', ['_shared.js']),
      'screens/rows/index.tsx': chunk('rows', ['_shared.js', 'screens/rows/index.tsx']),
    };
    writeFileSync(join(built, 'manifest.json'), JSON.stringify(manifest));
    const linked = (path: string) =>
      Array.from(pageFor(built, path, 'once')?.matchAll(/href="\/assets\/(\w+)\.js"/g) ?? [], ([, name]) => name);
    expect(linked('/')).toEqual(['page', 'shared']);
    expect(linked('/tree/a-b/design')).toEqual(['page', 'shared', 'design']);
    expect(linked('/tree/a-b')).toEqual(['page', 'shared', 'design']);
    expect(linked('/tree/a-b/rows/Loan')).toEqual(['page', 'shared', 'rows']);
    expect(linked('/tree/a-b/constructor')).toEqual(['page', 'shared']);
    expect(pageFor(built, '/', 'once')).toContain('content="once"');
  });

  test('bears what it asks first, whatever a text says, and is ended by none of it', () => {
    const text = "tree '</script><script>alert(1)</script><!--' $& $' ]]>";
    const html = pageFor(built, '/tree/a-b/design', 'once', new Map([['/api/trees/a-b', JSON.stringify({ text })]])) ?? '';
    const [, told = ''] = /<script type="application\/json" id="told-ahead">(.*?)<\/script>/s.exec(html) ?? [];
    expect(JSON.parse(told)).toEqual({ '/api/trees/a-b': { text } });
    expect(html.match(/<script/g)).toHaveLength(1);
    expect(html).not.toContain('<!--');
  });

  test.each([
    ['/tree/a-b', 'a-b'],
    ['/tree/a-b/rows/Loan', 'a-b'],
    ['/', null],
    ['/tree/', null],
    ['/trees/a-b', null],
    ['/tree/a%2F..%2Fb', null],
  ])('%s is about the tree %s', (path, id) => {
    expect(treeOfAddress(path)).toBe(id);
  });
});
