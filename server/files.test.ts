import { chmodSync, existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, afterEach, beforeEach, describe, expect, test } from 'vitest';
import type { FileState } from '../contract/index.js';
import { temporaryFolder } from '../tests/database.js';
import { BoundFiles } from './jobs/index.js';
import { titleIn } from './routes/messages.js';
import { Store, type StoredTree } from './store/index.js';
import { Texts } from './workers/index.js';

const folder = temporaryFolder();
const texts = new Texts();
let store: Store;
let files: BoundFiles;
let states: FileState[];
let changed: StoredTree[];
let turn = 0;
let file: string;

beforeEach(() => {
  turn += 1;
  states = [];
  changed = [];
  file = join(folder.path, `tree-${turn}.kin`);
  writeFileSync(file, "tree 'A'\n\nentity Bow\n  id integer key\n");
  store = new Store(join(folder.path, `store-${turn}.db`));
  files = new BoundFiles(store, texts, {
    titleIn,
    changed: (tree) => void changed.push(tree),
    state: (_tree, state) => void states.push(state),
  });
});

afterEach(async () => {
  await files.close();
  store.close();
});

afterAll(async () => {
  await texts.close();
  folder.remove();
});

async function opened(): Promise<StoredTree> {
  const tree = await files.open(file);
  if ('problem' in tree) throw new Error(tree.problem);
  return tree;
}

const save = async (tree: StoredTree, text: string) => {
  const latest = store.tree(tree.id);
  store.save(tree.id, text, 'A', latest?.revision ?? 0);
  await files.sync(tree.id);
};

const until = async (test: () => boolean) => {
  for (let waited = 0; !test() && waited < 5000; waited += 20) await new Promise((resolve) => setTimeout(resolve, 20));
};

describe('a tree that is bound to a file', () => {
  test('is the same tree whenever the file is opened', async () => {
    expect((await opened()).id).toBe((await opened()).id);
  });

  test('is saved to it', async () => {
    const tree = await opened();
    await save(tree, `${tree.text}  name text(20)\n`);
    expect(readFileSync(file, 'utf8')).toContain('name text(20)');
    expect(states.at(-1)).toEqual({ kind: 'same' });
  });

  test('takes what another program changes there, as a revision from the file', async () => {
    const tree = await opened();
    writeFileSync(file, tree.text.replace("'A'", "'B'"));
    await until(() => changed.length > 0);
    expect(store.tree(tree.id)).toMatchObject({ title: 'B', revision: 2 });
    expect(store.revisions(tree.id)[0]).toMatchObject({ source: 'file', added: 1, removed: 1 });
  });

  test('brings both together where they changed other lines', async () => {
    const tree = await opened();
    writeFileSync(file, tree.text.replace("'A'", "'B'"));
    await save(tree, `${tree.text}  name text(20)\n`);
    await until(() => readFileSync(file, 'utf8').includes('name'));
    const both = "tree 'B'\n\nentity Bow\n  id integer key\n  name text(20)\n";
    expect(readFileSync(file, 'utf8')).toBe(both);
    expect(store.tree(tree.id)?.text).toBe(both);
  });

  test('where both changed the same line neither is written over, until a person has settled it', async () => {
    const tree = await opened();
    const theirs = tree.text.replace("'A'", "'theirs'");
    writeFileSync(file, theirs);
    await save(tree, tree.text.replace("'A'", "'mine'"));
    expect(states.at(-1)).toEqual({ kind: 'clash', base: tree.text, text: theirs });
    expect(readFileSync(file, 'utf8')).toBe(theirs);
    expect(store.tree(tree.id)?.text).toContain("'mine'");
    store.setFileText(tree.id, theirs);
    await files.sync(tree.id);
    expect(readFileSync(file, 'utf8')).toContain("'mine'");
    expect(states.at(-1)).toEqual({ kind: 'same' });
  });

  test('that was deleted is told so, and written again with the next change', async () => {
    const tree = await opened();
    rmSync(file);
    await until(() => states.at(-1)?.kind === 'failed');
    expect(states.at(-1)).toMatchObject({ message: expect.stringContaining('was deleted outside') });
    expect(existsSync(file)).toBe(false);
    await save(tree, `${tree.text}-- more\n`);
    expect(existsSync(file)).toBe(true);
  });

  test('keeps the line ends that it has: of each line its own, and of a new line those of most', async () => {
    writeFileSync(file, "tree 'A'\r\n\r\nentity Bow\r\n  id integer key\n  -- mixed\n  weight integer\r\n");
    const tree = await opened();
    expect(tree.text).not.toContain('\r');
    await save(tree, tree.text.replace('  weight integer\n', '  weight integer\n  length integer\n'));
    expect(readFileSync(file, 'utf8')).toBe(
      "tree 'A'\r\n\r\nentity Bow\r\n  id integer key\n  -- mixed\n  weight integer\r\n  length integer\r\n",
    );
    writeFileSync(file, readFileSync(file, 'utf8').replaceAll('\r\n', '\n'));
    await until(() => states.at(-1)?.kind === 'same');
    expect(changed).toEqual([]);
  });

  test('that was changed while nobody watched is caught up with', async () => {
    const tree = await opened();
    await files.close();
    writeFileSync(file, tree.text.replace("'A'", "'Later'"));
    files = new BoundFiles(store, texts, { titleIn, changed: (now) => void changed.push(now), state: () => undefined });
    files.watchAll();
    await until(() => changed.length > 0);
    expect(store.tree(tree.id)?.title).toBe('Later');
  });

  test('keeps its mode, and leaves nothing beside it', async () => {
    chmodSync(file, 0o600);
    const tree = await opened();
    await save(tree, `${tree.text}-- more\n`);
    const { mode } = await import('node:fs').then((fs) => fs.statSync(file));
    expect(mode & 0o777).toBe(0o600);
    const { readdirSync } = await import('node:fs');
    expect(readdirSync(folder.path).filter((name) => name.endsWith('.tmp'))).toEqual([]);
  });

  test('whose own version a person settles by becomes a revision before it is written over', async () => {
    const tree = await opened();
    const theirs = tree.text.replace("'A'", "'theirs'");
    writeFileSync(file, theirs);
    await save(tree, tree.text.replace("'A'", "'mine'"));
    const latest = store.tree(tree.id);
    const settled = tree.text.replace("'A'", "'settled'");
    // Of two tabs that settle it, the second is refused, and has taken nothing for settled.
    expect(store.save(tree.id, settled, 'settled', 1, 'page', theirs)).toMatchObject({ kind: 'conflict' });
    await files.sync(tree.id);
    expect(readFileSync(file, 'utf8')).toBe(theirs);
    store.save(tree.id, settled, 'settled', latest?.revision ?? 0, 'page', theirs);
    await files.sync(tree.id);
    expect(readFileSync(file, 'utf8')).toBe(settled);
    const kept = store.revisions(tree.id).map(({ number }) => store.revision(tree.id, number)?.text);
    expect(kept).toEqual([settled, theirs, tree.text.replace("'A'", "'mine'"), tree.text]);
  });

  test('that is not UTF-8, holds U+0000, or is read-only, is left as it is, and that is told', async () => {
    const tree = await opened();
    const bytes = Buffer.from([0x74, 0xff, 0x0a]);
    writeFileSync(file, bytes);
    await save(tree, `${tree.text}-- more\n`);
    expect(readFileSync(file).equals(bytes)).toBe(true);
    expect(states.at(-1)).toMatchObject({ kind: 'failed', message: expect.stringContaining('not UTF-8') });
    writeFileSync(file, 'a\0b');
    await save(tree, `${tree.text}-- more and more\n`);
    expect(states.at(-1)).toMatchObject({ kind: 'failed', message: expect.stringContaining('U+0000') });
    writeFileSync(file, tree.text);
    chmodSync(file, 0o444);
    await save(tree, `${tree.text}-- still more\n`);
    expect(readFileSync(file, 'utf8')).toBe(tree.text);
    expect(states.at(-1)).toMatchObject({ kind: 'failed', message: expect.stringContaining('read-only') });
  });

  test('that an editor writes right after it was written is never written over', async () => {
    const tree = await opened();
    for (let round = 1; round <= 40; round++) {
      const mine = store.tree(tree.id)?.text ?? '';
      const saving = save(tree, mine.replace(/(-- mine \d+\n)?$/, `-- mine ${round}\n`));
      await new Promise((resolve) => setTimeout(resolve, (round * 7) % 60));
      const editors = readFileSync(file, 'utf8').replace(/tree '.*'/, `tree 'editor ${round}'`);
      writeFileSync(file, editors);
      await saving;
      await files.sync(tree.id);
      await until(
        () =>
          readFileSync(file, 'utf8').includes(`'editor ${round}'`) &&
          (store.tree(tree.id)?.text ?? '').includes(`'editor ${round}'`),
      );
      const texts = store.revisions(tree.id).map(({ number }) => store.revision(tree.id, number)?.text ?? '');
      expect([round, texts.some((text) => text.includes(`'editor ${round}'`))]).toEqual([round, true]);
      expect([round, texts.some((text) => text.includes(`-- mine ${round}\n`))]).toEqual([round, true]);
    }
  }, 600_000);

  test('that was written before this program was ended, and not noted, is our own text, and no clash', async () => {
    const tree = await opened();
    const first = `${tree.text}-- first\n`;
    const second = `${tree.text}-- second\n`;
    store.save(tree.id, first, 'A', 1);
    // Written, and ended before it was noted; then the page saved on.
    writeFileSync(file, first);
    writeFileSync(`${file}.0123abcd.tmp`, 'half');
    store.save(tree.id, second, 'A', 2);
    await files.sync(tree.id);
    expect(readFileSync(file, 'utf8')).toBe(second);
    expect(states.at(-1)).toEqual({ kind: 'same' });
    await files.open(file);
    expect(existsSync(`${file}.0123abcd.tmp`)).toBe(false);
  });

  test('that cannot be read is told in words', async () => {
    expect(await files.open(join(folder.path, 'nothing.kin'))).toEqual({
      problem: 'nothing.kin cannot be read: it is not there.',
    });
    expect(await files.open(folder.path)).toMatchObject({ problem: expect.stringContaining('it is a folder') });
  });
});
