import { rm } from 'node:fs/promises';
import { isAbsolute, join, resolve } from 'node:path';
import type { DatabaseState } from '../../contract/index.js';
import { type Design, readDesign } from '../../core/design/index.js';
import { absentFrom } from '../../core/schema/index.js';
import type { Wire } from '../../core/values/index.js';
import { type Engine, openSqlite } from '../../engines/index.js';
import { makeDatabase, placeToLook } from '../../services/index.js';
import type { StoredTree } from '../store/index.js';

/** A tree's database, ready to be asked. */
export interface OpenDatabase {
  readonly design: Design;
  readonly engine: Engine;
  readonly sampleKeys: Readonly<Record<string, Wire>>;
  readonly madeHere: boolean;
  readonly revision: number;
}

interface Entry {
  state: DatabaseState;
  open: OpenDatabase | null;
  /** The file that is looked at. */
  path: string | null;
  wanted: StoredTree;
  working: Promise<void> | null;
}

const LONGEST_RUN = 15_000;
/** A change is waited out for a moment, so that typing does not make a database for each letter. */
const CALM = 250;
/** How long the database of a tree that nobody looks at stays open. */
const IDLE = 120_000;

/**
 * The databases of the open trees. One that was made here is made anew from the text after each change, beside the
 * one in use, which goes on answering until the new one is ready; a brought-in one is looked at as it is.
 */
export class Databases {
  private readonly entries = new Map<string, Entry>();
  private readonly watchers = new Map<string, Set<(state: DatabaseState) => void>>();

  constructor(
    private readonly folder: string,
    private readonly report: (error: unknown) => void,
  ) {}

  /** The state now, and each one that follows until the given function is called. */
  watch(tree: StoredTree, watcher: (state: DatabaseState) => void): () => void {
    const watchers = this.watchers.get(tree.id) ?? new Set();
    watchers.add(watcher);
    this.watchers.set(tree.id, watchers);
    const known = this.entries.get(tree.id);
    if (known === undefined || known.wanted.revision !== tree.revision) this.renew(tree);
    else watcher(known.state);
    return () => {
      watchers.delete(watcher);
      if (watchers.size === 0) setTimeout(() => this.rest(tree.id), IDLE).unref();
    };
  }

  /** Closes a database that nobody has looked at for a while; it is opened again when it is asked for. */
  private rest(id: string): void {
    const entry = this.entries.get(id);
    if (entry === undefined || entry.working !== null || (this.watchers.get(id)?.size ?? 0) > 0) return;
    this.entries.delete(id);
    void entry.open?.engine.close().then(() => removeDatabase(entry.path));
  }

  /** Brings a tree's database up to its text; at once if nothing is under way, else right after. */
  renew(tree: StoredTree): void {
    const entry = this.entries.get(tree.id) ?? {
      state: { status: 'making', revision: tree.revision },
      open: null,
      path: null,
      wanted: tree,
      working: null,
    };
    this.entries.set(tree.id, entry);
    entry.wanted = tree;
    this.tell(tree.id, { status: 'making', revision: tree.revision });
    entry.working ??= this.work(tree.id, entry)
      .catch(this.report)
      .finally(() => {
        entry.working = null;
      });
  }

  /** The database of a tree, once it has caught up with the text as far as the text gives one. */
  async ready(tree: StoredTree): Promise<OpenDatabase | { readonly problem: string }> {
    const known = this.entries.get(tree.id);
    if (known === undefined || known.wanted.revision < tree.revision) this.renew(tree);
    const entry = this.entries.get(tree.id);
    await entry?.working;
    if (entry?.open !== undefined && entry.open !== null) return entry.open;
    return {
      problem: entry?.state.status === 'failed' ? entry.state.message : 'The database is not ready yet. Try again in a moment.',
    };
  }

  async close(): Promise<void> {
    await Promise.all(Array.from(this.entries.values(), (entry) => entry.open?.engine.close()));
  }

  private tell(id: string, state: DatabaseState): void {
    const entry = this.entries.get(id);
    if (entry !== undefined) entry.state = state;
    for (const watcher of this.watchers.get(id) ?? []) watcher(state);
  }

  private async work(id: string, entry: Entry): Promise<void> {
    for (;;) {
      const tree = entry.wanted;
      // The first time there is nothing to go on answering meanwhile, so nothing is waited for.
      if (tree.kind === 'made' && entry.open !== null) await new Promise((resolve) => setTimeout(resolve, CALM));
      if (entry.wanted !== tree) continue;
      const started = performance.now();
      try {
        const state = tree.kind === 'made' ? await this.makeAnew(tree, entry, started) : await this.look(tree, entry, started);
        if (entry.wanted === tree) {
          this.tell(id, state);
          return;
        }
      } catch (error) {
        this.tell(id, {
          status: 'failed',
          revision: tree.revision,
          message: 'The database could not be made, for a fault in this program. The text is safe.',
        });
        throw error;
      }
    }
  }

  private async makeAnew(tree: StoredTree, entry: Entry, started: number): Promise<DatabaseState> {
    const design = readDesign(tree.text);
    const path = join(this.folder, `${tree.id}.scratch-${tree.revision}.db`);
    const made = await makeDatabase(design, path);
    if (!made.ok) return { status: 'failed', revision: tree.revision, message: made.problem.message };
    const engine = openSqlite({ path, mode: 'look', milliseconds: LONGEST_RUN, label: 'The scratch database' });
    const { sampleKeys, rows, unsatisfied, brokenRules } = made.value;
    await this.swap(entry, { design, engine, sampleKeys, madeHere: true, revision: tree.revision }, path);
    return {
      status: 'ready',
      revision: tree.revision,
      kind: 'made',
      rows,
      absent: [],
      milliseconds: performance.now() - started,
      unsatisfied: [...unsatisfied],
      brokenRules: [...brokenRules],
    };
  }

  private async look(tree: StoredTree, entry: Entry, started: number): Promise<DatabaseState> {
    const design = readDesign(tree.text);
    const engine = entry.open?.engine ?? (await this.openAsItIs(tree));
    if ('problem' in engine) return { status: 'failed', revision: tree.revision, message: engine.problem };
    entry.open = { design, engine, sampleKeys: {}, madeHere: false, revision: tree.revision };
    const looked = await engine.introspect();
    if (!looked.ok) return { status: 'failed', revision: tree.revision, message: looked.problem.message };
    return {
      status: 'ready',
      revision: tree.revision,
      kind: 'brought in',
      rows: {},
      unsatisfied: [],
      brokenRules: [],
      absent: absentFrom(design.model, looked.value.schema),
      milliseconds: performance.now() - started,
    };
  }

  /** A database that others made, where it lies; or a copy, where it has come to be written in a way that needs one. */
  private async openAsItIs(tree: StoredTree): Promise<Engine | { readonly problem: string }> {
    const path = resolve(this.folder, tree.database ?? '');
    const place = isAbsolute(tree.database ?? '') ? await placeToLook(path, join(this.folder, `${tree.id}.copy.db`)) : null;
    if (place !== null && !place.ok) return { problem: place.problem.message };
    return openSqlite({ path: place?.value.path ?? path, mode: 'look', milliseconds: LONGEST_RUN, label: tree.title });
  }

  /** Looks at another database from now on. */
  async reopen(tree: StoredTree): Promise<void> {
    const entry = this.entries.get(tree.id);
    await entry?.working;
    const before = entry?.open ?? null;
    if (entry !== undefined) entry.open = null;
    await before?.engine.close();
    this.renew(tree);
  }

  private async swap(entry: Entry, next: OpenDatabase, path: string): Promise<void> {
    const before = { open: entry.open, path: entry.path };
    entry.open = next;
    entry.path = path;
    await before.open?.engine.close();
    if (before.path !== path) await removeDatabase(before.path);
  }
}

async function removeDatabase(path: string | null): Promise<void> {
  if (path === null) return;
  for (const suffix of ['', '-wal', '-shm']) await rm(`${path}${suffix}`, { force: true });
}
