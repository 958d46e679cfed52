import { isAbsolute, join, resolve } from 'node:path';
import type { DatabaseState } from '../../contract/index.js';
import { type Design, readDesign } from '../../core/design/index.js';
import { absentFrom } from '../../core/schema/index.js';
import type { Wire } from '../../core/values/index.js';
import { type Engine, type Outcome, openEmbedded, openSqlite } from '../../engines/index.js';
import {
  fillDatabase,
  type MadeDatabase,
  makeDatabase,
  openAt,
  openScratch,
  placeToLook,
  removeAt,
  type Workshop,
} from '../../services/index.js';
import { inUseOf, partOf, type StoredTree } from '../store/index.js';
import type { PlacesInUse } from './places.js';

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
  /** Takes away what was made to be looked at. */
  remove: (() => Promise<void>) | null;
  wanted: StoredTree;
  working: Promise<void> | null;
}

const LONGEST_RUN = 15_000;
/** An embedded engine takes some seconds to start. */
const LONGEST_EMBEDDED = 60_000;
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
    private readonly places: PlacesInUse,
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
    void entry.open?.engine.close().then(() => entry.remove?.());
  }

  /** Brings a tree's database up to its text; at once if nothing is under way, else right after. */
  renew(tree: StoredTree): void {
    const entry = this.entries.get(tree.id) ?? {
      state: { status: 'making', revision: tree.revision },
      open: null,
      remove: null,
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
    await Promise.all(
      Array.from(this.entries.values(), async (entry) => {
        // What is being made on a server would be left there.
        await entry.working;
        await entry.open?.engine.close();
        // Its own file is taken away at the next start; what is on a server would stay there.
        if (entry.wanted.address !== null) await entry.remove?.().catch(() => undefined);
      }),
    );
    await this.places.close();
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
    const failed = (message: string): DatabaseState => ({ status: 'failed', revision: tree.revision, message });
    const { dialect, kind } = inUseOf(tree);
    const design = readDesign(tree.text, dialect);
    const made = kind === 'sqlite' ? await this.makeFile(tree, design) : await this.makeElsewhere(tree, design, entry);
    if (!made.ok) return failed(made.problem.message);
    const { engine, remove, database } = made.value;
    const { sampleKeys, rows, unsatisfied, unheld } = database;
    await this.swap(entry, { design, engine, sampleKeys, madeHere: true, revision: tree.revision }, remove);
    return {
      status: 'ready',
      revision: tree.revision,
      kind: 'made',
      rows,
      absent: [],
      milliseconds: performance.now() - started,
      unsatisfied: [...unsatisfied],
      unheld: [...unheld],
    };
  }

  /** Makes a SQLite file beside the one in use. */
  private async makeFile(tree: StoredTree, design: Design): Promise<Outcome<MadeElsewhere>> {
    const path = join(this.folder, `${tree.id}.scratch-${tree.revision}.db`);
    const made = await makeDatabase(design, path);
    if (!made.ok) return made;
    const engine = openSqlite({ path, mode: 'look', milliseconds: LONGEST_RUN, label: 'The scratch database' });
    return { ok: true, value: { engine, remove: () => removeAt(path), database: made.value } };
  }

  /** Makes a database of its own on the engine in use. */
  private async makeElsewhere(tree: StoredTree, design: Design, entry: Entry): Promise<Outcome<MadeElsewhere>> {
    const workshop = await this.workshopOf(tree);
    if ('problem' in workshop) return { ok: false, problem: { code: 'refused', message: workshop.problem } };
    const stem = tree.id.replaceAll('-', '').slice(0, 12);
    const scratch = await openScratch(workshop, { stem, name: `r${tree.revision}`, first: entry.open === null });
    if (!scratch.ok) return scratch;
    const made = await fillDatabase(design, scratch.value.engine);
    if (!made.ok) {
      await scratch.value.remove();
      return made;
    }
    return { ok: true, value: { ...scratch.value, database: made.value } };
  }

  private async workshopOf(tree: StoredTree): Promise<Workshop | { readonly problem: string }> {
    if (inUseOf(tree).kind === 'embedded') return { kind: 'embedded', embedded: this.places.embedded() };
    if (tree.unlocked !== 1)
      return {
        problem:
          'The server is locked: nothing is written there. Unlock it in the top bar to try the text in a scratch database on it.',
      };
    const opened = await this.places.of(tree, LONGEST_RUN);
    return 'problem' in opened ? opened : { kind: 'server', access: opened.access };
  }

  private async look(tree: StoredTree, entry: Entry, started: number): Promise<DatabaseState> {
    const design = readDesign(tree.text, tree.address === null ? null : inUseOf(tree).dialect);
    const engine = entry.open?.engine ?? (await this.openAsItIs(tree));
    if ('problem' in engine) return { status: 'failed', revision: tree.revision, message: engine.problem };
    entry.open = { design, engine, sampleKeys: {}, madeHere: false, revision: tree.revision };
    const looked = await engine.introspect(partOf(tree).schemas);
    if (!looked.ok) return { status: 'failed', revision: tree.revision, message: looked.problem.message };
    return {
      status: 'ready',
      revision: tree.revision,
      kind: 'brought in',
      rows: {},
      unsatisfied: [],
      unheld: [],
      absent: absentFrom(design.model, looked.value.schema),
      milliseconds: performance.now() - started,
    };
  }

  /** A database that others made, where it lies; or a copy, where it has come to be written in a way that needs one. */
  private async openAsItIs(tree: StoredTree): Promise<Engine | { readonly problem: string }> {
    if (inUseOf(tree).kind === 'server') {
      const opened = await this.places.of(tree, LONGEST_RUN);
      return 'problem' in opened ? opened : openAt(opened.access);
    }
    if (inUseOf(tree).kind === 'embedded') return this.embeddedOf(tree);
    const path = resolve(this.folder, tree.database ?? '');
    const place = isAbsolute(tree.database ?? '') ? await placeToLook(path, join(this.folder, `${tree.id}.copy.db`)) : null;
    if (place !== null && !place.ok) return { problem: place.problem.message };
    return openSqlite({ path: place?.value.path ?? path, mode: 'look', milliseconds: LONGEST_RUN, label: tree.title });
  }

  /** Looks at another database from now on; what was made in the one before is taken away. */
  async reopen(tree: StoredTree): Promise<void> {
    const entry = this.entries.get(tree.id);
    await entry?.working;
    const before = { open: entry?.open ?? null, remove: entry?.remove ?? null };
    if (entry !== undefined) Object.assign(entry, { open: null, remove: null });
    await before.open?.engine.close();
    await before.remove?.();
    this.renew(tree);
  }

  /** The embedded PostgreSQL that a script was run into: a folder of its own. */
  private embeddedOf(tree: StoredTree): Engine {
    const folder = join(this.folder, tree.database ?? '');
    const own = openEmbedded({ folder, label: tree.title, milliseconds: LONGEST_EMBEDDED });
    return { ...own.at(null), close: () => own.close() };
  }

  private async swap(entry: Entry, next: OpenDatabase, remove: () => Promise<void>): Promise<void> {
    const before = { open: entry.open, remove: entry.remove };
    entry.open = next;
    entry.remove = remove;
    await before.open?.engine.close();
    await before.remove?.();
  }
}

/** A database that was made to be looked at, and how it is taken away. */
interface MadeElsewhere {
  readonly engine: Engine;
  readonly database: MadeDatabase;
  remove(): Promise<void>;
}
