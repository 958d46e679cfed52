import { randomUUID } from 'node:crypto';
import { readFile, realpath, rename, stat, writeFile } from 'node:fs/promises';
import { basename } from 'node:path';
import { type FSWatcher, watch } from 'chokidar';
import { type FileState, LONGEST_TEXT } from '../../contract/index.js';
import { merge } from '../../core/revisions/index.js';
import type { RevisionSource, Store, StoredTree } from '../store/index.js';

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
    private readonly events: FileEvents,
  ) {}

  /** Opens a file: the tree that is bound to it, or a new one. A message where it cannot be read. */
  async open(path: string): Promise<StoredTree | { readonly problem: string }> {
    let file: string;
    let text: string;
    try {
      file = await realpath(path);
      if ((await stat(file)).size > LONGEST_TEXT * 4)
        return { problem: `${basename(path)} is larger than a text may be: 2,000,000 characters at most.` };
      text = await readFile(file, 'utf8');
    } catch (error) {
      return { problem: `${basename(path)} cannot be read: ${reasonOf(error)}.` };
    }
    const known = this.store.treeOfFile(file);
    const tree = known ?? this.store.add(this.events.titleIn(text), text, 'made', null, file);
    this.watch(tree);
    await this.sync(tree.id);
    return this.store.tree(tree.id) ?? tree;
  }

  /** Watches the files of all trees that have one. */
  watchAll(): void {
    for (const tree of this.store.trees()) {
      if (tree.file === null) continue;
      this.watch(tree);
      void this.sync(tree.id);
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
      const message = `${basename(tree.file)} cannot be written: ${reasonOf(error)}. The text is saved here all the same.`;
      this.tell(id, { kind: 'failed', message });
    }
  }

  private async bring(tree: StoredTree, file: string, base: string): Promise<FileState> {
    const there = await readText(file);
    if (there === tree.text) {
      this.store.setFileText(tree.id, there);
      return { kind: 'same' };
    }
    // A file that is gone is written again; nothing of it is lost by that.
    if (there === null || there === base) return this.write(tree, file);
    const merged = merge(base, tree.text, there);
    if (merged.kind === 'clashes') return { kind: 'clash', base, text: there };
    const saved = this.store.save(tree.id, merged.text, this.events.titleIn(merged.text), tree.revision, 'file');
    this.store.setFileText(tree.id, there);
    const now = this.store.tree(tree.id);
    if (saved.kind !== 'saved' || now === null) return { kind: 'same' };
    this.events.changed(now, 'file');
    return merged.text === there ? { kind: 'same' } : this.write(now, file);
  }

  /** Written beside and moved over, so that no reader ever sees half of it. */
  private async write(tree: StoredTree, file: string): Promise<FileState> {
    const beside = `${file}.${randomUUID().slice(0, 8)}.tmp`;
    const mode = await stat(file).then(
      (found) => found.mode,
      () => 0o644,
    );
    await writeFile(beside, tree.text, { mode });
    await rename(beside, file);
    this.store.setFileText(tree.id, tree.text);
    return { kind: 'same' };
  }

  private tell(id: string, state: FileState): void {
    this.states.set(id, state);
    this.events.state(id, state);
  }
}

async function readText(file: string): Promise<string | null> {
  try {
    return await readFile(file, 'utf8');
  } catch (error) {
    if (error instanceof Error && 'code' in error && error.code === 'ENOENT') return null;
    throw error;
  }
}

const REASONS: Readonly<Record<string, string>> = {
  ENOENT: 'it is not there',
  EACCES: 'this account may not',
  EPERM: 'this account may not',
  EISDIR: 'it is a folder',
  ENOSPC: 'the disk is full',
  EROFS: 'the disk is read-only',
};

function reasonOf(error: unknown): string {
  const code = error instanceof Error && 'code' in error ? String(error.code) : '';
  return REASONS[code] ?? (code === '' ? 'of a fault in this program' : code);
}
