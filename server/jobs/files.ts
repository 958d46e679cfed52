import { isUtf8 } from 'node:buffer';
import { randomUUID } from 'node:crypto';
import { access, chmod, constants, link, readdir, readFile, realpath, rename, rm, stat, writeFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { type FSWatcher, watch } from 'chokidar';
import { type FileState, LONGEST_TEXT } from '../../contract/index.js';
import { withLineEndsOf, withLineFeeds } from '../../core/revisions/index.js';
import type { RevisionSource, Store, StoredTree } from '../store/index.js';
import { type Texts, WorkLost } from '../workers/index.js';

export interface FileEvents {
  /** A revision came from the file, or out of both. */
  changed(tree: StoredTree, source: RevisionSource): void;
  state(tree: string, state: FileState): void;
  titleIn(text: string): string;
}

/**
 * Trees that are bound to a `.kin` file: what is saved here is written there, and what an editor or a checkout
 * changes there becomes a revision here. Both changed in the same lines is a clash, which a person settles; until
 * then neither is written over.
 */
export class BoundFiles {
  private readonly watchers = new Map<string, FSWatcher>();
  private readonly turns = new Map<string, Promise<void>>();
  private readonly states = new Map<string, FileState>();

  constructor(
    private readonly store: Store,
    private readonly texts: Texts,
    private readonly events: FileEvents,
  ) {}

  /** Opens a file: the tree that is bound to it, or a new one. A message where it cannot be read. */
  async open(path: string): Promise<StoredTree | { readonly problem: string }> {
    let file: string;
    let text: string;
    try {
      file = await realpath(path);
      text = (await readText(file)) ?? '';
    } catch (error) {
      return { problem: `${basename(path)} cannot be read: ${reasonOf(error)}.` };
    }
    const known = this.store.treeOfFile(file);
    if (known !== null) this.store.setTakenOff(known.id, false);
    const tree = known ?? this.store.add(this.events.titleIn(text), text, 'made', null, file);
    await removeLeft(file);
    this.watch(tree);
    await this.sync(tree.id);
    return this.store.tree(tree.id) ?? tree;
  }

  /** Watches the files of all trees that have one. */
  watchAll(): void {
    for (const tree of this.store.trees()) {
      if (tree.file === null) continue;
      const { id, file } = tree;
      void removeLeft(file).then(() => {
        this.watch(tree);
        return this.sync(id);
      });
    }
  }

  stateOf(id: string): FileState | null {
    return this.states.get(id) ?? null;
  }

  /** Brings file and text together, one turn after the other for each tree. */
  sync(id: string): Promise<void> {
    const turn = (this.turns.get(id) ?? Promise.resolve()).then(() => this.turn(id));
    this.turns.set(id, turn);
    return turn;
  }

  async close(): Promise<void> {
    await Promise.all(Array.from(this.watchers.values(), (watcher) => watcher.close()));
    await Promise.all(this.turns.values());
  }

  private watch({ id, file }: StoredTree): void {
    if (file === null || this.watchers.has(id)) return;
    const watcher = watch(file, { ignoreInitial: true, awaitWriteFinish: { stabilityThreshold: 60, pollInterval: 20 } });
    watcher.on('all', () => void this.sync(id));
    this.watchers.set(id, watcher);
  }

  private async turn(id: string): Promise<void> {
    const tree = this.store.tree(id);
    if (tree === null || tree.file === null) return;
    try {
      this.tell(id, await this.bring(tree, tree.file, tree.fileText ?? ''));
    } catch (error) {
      const what = error instanceof NotAText ? 'is left as it is' : 'cannot be written';
      const message = `${basename(tree.file)} ${what}: ${reasonOf(error)}. The text is saved here all the same.`;
      this.tell(id, { kind: 'failed', message });
    }
  }

  private async bring(tree: StoredTree, file: string, noted: string): Promise<FileState> {
    const there = await settledText(file, [tree.text, noted]);
    if (there === tree.text) {
      this.store.setFileText(tree.id, there);
      return { kind: 'same' };
    }
    if (there === null && tree.text === noted) {
      const message = `${basename(file)} was deleted outside. The text is saved here, and written there again with the next change.`;
      return { kind: 'failed', message };
    }
    // A file that is gone is written again; nothing of it is lost by that.
    if (there === null || there === noted || this.wroteSince(tree, there, noted)) return this.write(tree, file, there);
    return this.together(tree, file, noted, there);
  }

  /** A text of ours that is later than what was noted: this program was ended between writing it and noting it. */
  private wroteSince(tree: StoredTree, there: string, noted: string): boolean {
    const found = this.store.lastRevisionOf(tree.id, there);
    return found !== null && found > (this.store.lastRevisionOf(tree.id, noted) ?? 0);
  }

  /** Brings the file's text and ours into one; both are revisions before anything is written over. */
  private async together(tree: StoredTree, file: string, base: string, there: string): Promise<FileState> {
    const merged = await this.texts.does('merge', [base, tree.text, there]);
    if (merged.kind === 'clashes') return { kind: 'clash', base, text: there };
    const title = this.events.titleIn(merged.text);
    const saved = this.store.save(tree.id, merged.text, title, tree.revision, 'file', there);
    const now = this.store.tree(tree.id);
    if (now === null) return { kind: 'same' };
    // Somebody saved in between: what the file holds is brought together with that.
    if (saved.kind !== 'saved') return this.bring(now, file, now.fileText ?? '');
    this.events.changed(now, 'file');
    return merged.text === there ? { kind: 'same' } : this.write(now, file, there);
  }

  /**
   * Written beside and moved over, so that no reader ever sees half of it. What stood there is held by a second name for a
   * moment: where it turns out to be another text than was seen, an editor wrote meanwhile, and that is brought together too.
   */
  private async write(tree: StoredTree, file: string, seen: string | null): Promise<FileState> {
    const mark = randomUUID().slice(0, 8);
    const beside = `${file}.${mark}.tmp`;
    const held = `${file}.${mark}-held.tmp`;
    try {
      const mode = await modeOf(file);
      await writeFile(beside, withLineEndsOf(tree.text, (await readAsItStands(file)) ?? ''), { mode });
      // What the process masks is given back: a file keeps its rights.
      await chmod(beside, mode);
      const isHeld = seen !== null && (await hold(file, held));
      if (!isHeld && (await readText(file)) !== seen) return await this.bring(tree, file, seen ?? '');
      await rename(beside, file);
      this.store.setFileText(tree.id, tree.text);
      if (!isHeld) return { kind: 'same' };
      for (const pause of HELD_FOR) {
        await new Promise((done) => setTimeout(done, pause));
        const stood = await readText(held);
        if (stood === null || stood === seen) continue;
        const merged = await this.texts.does('merge', [seen, tree.text, stood]);
        const now = this.store.tree(tree.id);
        if (merged.kind === 'merged' && now !== null) return await this.together(now, file, seen, stood);
        await rename(held, file);
        this.store.setFileText(tree.id, seen);
        return { kind: 'clash', base: seen, text: stood };
      }
      return { kind: 'same' };
    } finally {
      await rm(beside, { force: true });
      await rm(held, { force: true });
    }
  }

  private tell(id: string, state: FileState): void {
    this.states.set(id, state);
    this.events.state(id, state);
  }
}

/** How long what stood in a file is looked at after it was moved over, in milliseconds: an editor may still be writing. */
const HELD_FOR = [0, 120];
const MOST_BYTES = LONGEST_TEXT * 4;

/** What stands in a file and is no text that can be taken in. */
class NotAText extends Error {}

/** The text of a file, its lines ended by line feeds; null where there is none. @throws {NotAText} where it is none */
async function readText(file: string): Promise<string | null> {
  const text = await readAsItStands(file);
  return text === null ? null : withLineFeeds(text);
}

async function readAsItStands(file: string): Promise<string | null> {
  try {
    const found = await stat(file);
    if (found.isDirectory()) throw new NotAText('it is a folder');
    if (!found.isFile()) throw new NotAText('it is no regular file');
    if (found.size > MOST_BYTES) throw new NotAText('it is larger than a text may be, 2,000,000 characters');
    const bytes = await readFile(file);
    if (!isUtf8(bytes)) throw new NotAText('its text is not UTF-8, and would be changed by reading it');
    const text = bytes.toString('utf8');
    if (text.includes('\0')) throw new NotAText('it holds the character U+0000, which no text can');
    if (text.length > LONGEST_TEXT) throw new NotAText('it is larger than a text may be, 2,000,000 characters');
    return text;
  } catch (error) {
    if (error instanceof Error && 'code' in error && error.code === 'ENOENT') return null;
    throw error;
  }
}

/** How often, and how long apart, a file that has changed is read until two readings are the same. */
const MOST_READINGS = 10;
const APART = 30;

/** The text of a file that nobody is just writing: an editor may empty it first, and fill it then. */
async function settledText(file: string, known: readonly string[]): Promise<string | null> {
  let text = await readText(file);
  for (let reading = 1; reading < MOST_READINGS && text !== null && !known.includes(text); reading++) {
    await new Promise((done) => setTimeout(done, APART));
    const again = await readText(file);
    if (again === text) break;
    text = again;
  }
  return text;
}

/** The rights of a file that may be written. @throws where it may not be */
async function modeOf(file: string): Promise<number> {
  const found = await stat(file).catch(() => null);
  if (found === null) return 0o644;
  // An administrator may write all the same; the file says that nobody should.
  if ((found.mode & 0o222) === 0) throw Object.assign(new Error('read-only'), { code: 'EROFILE' });
  await access(file, constants.W_OK);
  return found.mode & 0o7777;
}

/** Gives what stands in a file a second name. False where there is none, or the disk has no second names. */
async function hold(file: string, held: string): Promise<boolean> {
  return link(file, held).then(
    () => true,
    () => false,
  );
}

const LEFT = /\.[0-9a-f]{8}(-held)?\.tmp$/;

/** Removes what a process that was ended left beside a file. */
async function removeLeft(file: string | null): Promise<void> {
  if (file === null) return;
  const [folder, name] = [dirname(file), basename(file)];
  for (const other of await readdir(folder).catch(() => []))
    if (other.startsWith(`${name}.`) && LEFT.test(other)) await rm(join(folder, other), { force: true });
}

const REASONS: Readonly<Record<string, string>> = {
  ENOENT: 'it is not there',
  EACCES: 'this account may not',
  EPERM: 'this account may not',
  EISDIR: 'it is a folder',
  ENOSPC: 'the disk is full',
  EROFS: 'the disk is read-only',
  EROFILE: 'it is read-only',
};

function reasonOf(error: unknown): string {
  if (error instanceof NotAText || error instanceof WorkLost) return error.message;
  const code = error instanceof Error && 'code' in error ? String(error.code) : '';
  return REASONS[code] ?? (code === '' ? 'of a fault in this program' : code);
}
