import { randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { CommandsAsk, DatabaseState, LiveAnswered } from '../../contract/index.js';
import type { TakenBack, Undo } from '../../core/write/index.js';
import { programFile } from '../../engines/index.js';
import { LONGEST_RUN } from '../longest-run.js';
import { type CarriedOutAt, inUseOf, placeOfRows, type Store, type StoredTree, writtenAsTold } from '../store/index.js';
import { type AskOptions, type DatabaseAccess, Worker, WorkLost } from '../workers/index.js';
import type { PlacesInUse } from './places.js';

/** What can be asked of a tree's database; the answer is JSON, as a page is sent it. */
export type TreeAsk =
  | 'run'
  | 'ways'
  | 'reads'
  | 'rehearse'
  | 'look at file'
  | 'file columns'
  | 'lines in'
  | 'rows out'
  | 'do'
  | 'take back'
  | 'rows'
  | 'counts'
  | 'entity counts'
  | 'profile'
  | 'row findings'
  | 'kinds'
  | 'impact'
  | 'expectations'
  | 'reach'
  | 'audit'
  | 'rows beside'
  | 'live'
  | 'why'
  | 'choices'
  | 'plan'
  | 'rehearse plan'
  | 'apply plan'
  | 'settle plan'
  | 'let go'
  | 'stands'
  | 'drift'
  | 'make file';

interface Entry {
  state: DatabaseState;
  wanted: StoredTree;
  readonly worker: Worker;
  /** What was put to the worker last, so that what is asked comes behind it. */
  told: Promise<void>;
  /** How often it was brought up to its text. */
  brought: number;
  /** When somebody last had to do with it. */
  used: number;
  /** The revision whose text the worker was lost by: it is not read again before it changes. */
  lostBy: { readonly revision: number; readonly why: string } | null;
}

const MOST_MEMORY_MB = 1536;
/** How long the database of a tree that nobody looks at stays open. */
const IDLE = 120_000;

/**
 * The databases of the open trees, each in a process of its own, which reads the text, makes or opens the database, and
 * answers. What a text does to its process, it does to no other tree, and not to the server.
 */
export class Databases {
  private readonly entries = new Map<string, Entry>();
  private readonly watchers = new Map<string, Set<(state: DatabaseState) => void>>();
  private readonly sweeping: NodeJS.Timeout;

  constructor(
    private readonly folder: string,
    private readonly store: Store,
    private readonly places: PlacesInUse,
    private readonly report: (error: unknown) => void,
    private readonly idle = IDLE,
  ) {
    this.sweeping = setInterval(() => this.sweep(), idle / 4).unref();
  }

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
      if (watchers.size === 0) this.watchers.delete(tree.id);
      const entry = this.entries.get(tree.id);
      if (entry !== undefined) entry.used = performance.now();
    };
  }

  /** The state of a tree's database, where it is open. */
  stateOf(id: string): DatabaseState | null {
    return this.entries.get(id)?.state ?? null;
  }

  /** How many databases are open. */
  get open(): number {
    return this.entries.size;
  }

  /** Brings a tree's database up to its text; at once if nothing is under way, else right after. */
  renew(tree: StoredTree): void {
    void this.bring(tree, 'renew');
  }

  /** Ends the making of a tree's database. */
  async stop(id: string): Promise<void> {
    await this.entries.get(id)?.worker.ask('stop making', null);
  }

  /** Looks at another database from now on; what was made in the one before is taken away. */
  async reopen(tree: StoredTree): Promise<void> {
    await this.bring(tree, 'reopen');
  }

  /**
   * Asks a tree's database, once it has caught up with the text. The answer is JSON; where the process was lost by it, a
   * problem in words.
   */
  async ask(
    tree: StoredTree,
    name: TreeAsk,
    argument: unknown,
    options: AskOptions = {},
  ): Promise<{ readonly json: string } | { readonly problem: string }> {
    const known = this.entries.get(tree.id);
    if (known === undefined || known.wanted.revision < tree.revision) this.renew(tree);
    const entry = this.entries.get(tree.id);
    if (entry === undefined) return { problem: 'The database is not open.' };
    entry.used = performance.now();
    await entry.told;
    if (entry.lostBy?.revision === entry.wanted.revision) return { problem: entry.lostBy.why };
    try {
      const json = await entry.worker.ask(name, argument, options);
      return { json: String(json) };
    } catch (error) {
      if (!(error instanceof WorkLost)) throw error;
      return { problem: `This was not answered: ${error.message}. Ask for less at once, or simplify what the text says.` };
    } finally {
      entry.used = performance.now();
    }
  }

  /**
   * Carries commands out on a tree's database, and keeps them: on a scratch database they are carried out again whenever it is made
   * anew; of any other how its rows were. What is told as done is on the disk before.
   */
  async carryOut(
    tree: StoredTree,
    { text: said, as }: CommandsAsk,
    signal: AbortSignal,
  ): Promise<{ json: string } | { problem: string }> {
    const seed = randomUUID();
    // On whose behalf is kept with the commands.
    const text = as === undefined ? said : `as ${as}\n${said}`;
    const brought = this.broughtOf(tree.id);
    const answer = await this.ask(tree, 'do', { text: said, seed, ...(as === undefined ? {} : { as }) }, { signal });
    if ('problem' in answer) return answer;
    const { undo = null, ...told } = JSON.parse(answer.json) as { readonly ok: boolean; readonly undo?: Undo | null };
    if (!told.ok) return answer;
    this.keepCommands(tree, { text, seed, undo, brought });
    return { json: JSON.stringify(told) };
  }

  private keepCommands(
    tree: StoredTree,
    { text, seed, undo, brought }: { text: string; seed: string; undo: Undo | null; brought: number | undefined },
  ): void {
    const lacks = undo?.lacks.join('; ') ?? '';
    const place = placeOfRows(tree);
    const at = { place, undo: place === null ? null : JSON.stringify(undo), lacks: lacks === '' ? null : lacks };
    this.keep(tree, text, { ...at, seed, brought });
  }

  /** Answers a request of the live endpoint, and keeps what it wrote as what a person carried out is kept. */
  async live(tree: StoredTree, ask: unknown, signal: AbortSignal): Promise<LiveAnswered | { readonly problem: string }> {
    const brought = this.broughtOf(tree.id);
    const answer = await this.ask(tree, 'live', ask, { signal });
    if ('problem' in answer) return answer;
    const told = JSON.parse(answer.json) as LiveAnswered;
    if (told.wrote === null) return told;
    const { text, seed, undo } = told.wrote;
    this.keepCommands(tree, { text, seed, undo: undo as Undo | null, brought });
    return told;
  }

  /** How often a tree's database was brought up to its text: what is written while that goes on is written once more. */
  broughtOf(id: string): number | undefined {
    return this.entries.get(id)?.brought;
  }

  /** Keeps what was written into a tree's database. @param brought how often it had been brought up to its text before */
  keep(
    tree: StoredTree,
    text: string,
    { seed, brought, ...at }: CarriedOutAt & { readonly seed: string; readonly brought: number | undefined },
  ): void {
    const kept = this.store.keepCommands(tree.id, text, seed, at);
    const entry = this.entries.get(tree.id);
    // One that was made meanwhile began without it.
    if (entry === undefined || (brought !== undefined && entry.brought !== brought)) this.renew(tree);
    else if (entry.state.status === 'ready')
      this.tell(tree.id, { ...entry.state, written: [...entry.state.written, writtenAsTold(kept, null)] });
  }

  /** Takes back the commands that were carried out last, or lets go of some that no longer fit; else why not, in words. */
  async takeBack(tree: StoredTree, commands: number): Promise<string | null> {
    const place = placeOfRows(tree);
    const kept = this.store.writtenCommands(tree.id, place);
    const { state } = this.entries.get(tree.id) ?? {};
    const unfit = state?.status === 'ready' && state.written.some(({ id, unfit: why }) => id === commands && why !== null);
    const one = kept.find(({ id }) => id === commands);
    if (one === undefined) return 'These are not kept any more.';
    if (!unfit && kept.at(-1) !== one) return 'Others were carried out after these. Take those back first.';
    if (place === null) {
      this.store.forgetCommands(tree.id, commands);
      if (one.file !== null && !this.store.keepsFile(one.file)) await rm(join(this.folder, one.file), { force: true });
      this.renew(tree);
      return null;
    }
    // What can never be put back is let go of.
    const problem = one.lacks === null ? await this.putBack(tree, commands) : null;
    if (problem !== null) return problem;
    this.store.forgetCommands(tree.id, commands);
    const entry = this.entries.get(tree.id);
    if (entry?.state.status === 'ready')
      this.tell(tree.id, { ...entry.state, written: entry.state.written.filter(({ id }) => id !== commands) });
    return null;
  }

  /** Puts back what commands touched; why it cannot be, in words, or null. */
  private async putBack(tree: StoredTree, commands: number): Promise<string | null> {
    const answer = await this.ask(tree, 'take back', this.store.undoOf(tree.id, commands) ?? 'null');
    if ('problem' in answer) return answer.problem;
    const back = JSON.parse(answer.json) as TakenBack;
    return back.ok ? null : back.problem;
  }

  async close(): Promise<void> {
    clearInterval(this.sweeping);
    await Promise.all(Array.from(this.entries.values(), (entry) => entry.worker.close()));
  }

  private async bring(tree: StoredTree, how: 'renew' | 'reopen'): Promise<void> {
    const entry = this.entries.get(tree.id) ?? this.opened(tree);
    entry.wanted = tree;
    entry.used = performance.now();
    if (entry.lostBy !== null && entry.lostBy.revision !== tree.revision) entry.lostBy = null;
    this.tell(tree.id, { status: 'making', revision: tree.revision });
    entry.brought += 1;
    const before = entry.told;
    let told = () => {};
    entry.told = new Promise((resolve) => {
      told = resolve;
    });
    await before;
    try {
      const wanted = await this.wantedOf(tree);
      const work = entry.worker.begin(how, wanted, 'renew', (state) => {
        // A state of a text that has changed since is of no use to anybody.
        if ((state as DatabaseState).revision === entry.wanted.revision) this.tell(tree.id, state as DatabaseState);
      });
      told();
      await work;
    } catch (error) {
      told();
      const lost = error instanceof WorkLost;
      if (!lost) this.report(error);
      const message = lost
        ? `The text could not be made into a database: ${error.message}. It is safe; make it smaller, or its samples fewer.`
        : 'The database could not be made, for a fault in this program. The text is safe.';
      if (lost) entry.lostBy = { revision: tree.revision, why: message };
      this.tell(tree.id, { status: 'failed', revision: tree.revision, message });
    }
  }

  private opened(tree: StoredTree): Entry {
    const entry: Entry = {
      state: { status: 'making', revision: tree.revision },
      wanted: tree,
      worker: new Worker({
        file: programFile('server/workers/tree-work'),
        memoryMegabytes: MOST_MEMORY_MB,
        // A text may take as long to be read, or its rows to be thought out, without a word.
        patience: LONGEST_RUN,
      }),
      told: Promise.resolve(),
      brought: 0,
      used: performance.now(),
      lostBy: null,
    };
    this.entries.set(tree.id, entry);
    return entry;
  }

  private async wantedOf(tree: StoredTree): Promise<DatabaseAccess> {
    const isServer = inUseOf(tree).kind === 'server';
    const access = isServer ? await this.places.of(tree, LONGEST_RUN) : null;
    const written = this.store.writtenCommands(tree.id, placeOfRows(tree));
    return { tree, folder: this.folder, access, written, agreed: this.store.agreed(tree.id) };
  }

  private tell(id: string, state: DatabaseState): void {
    const entry = this.entries.get(id);
    if (entry !== undefined) entry.state = state;
    for (const watcher of this.watchers.get(id) ?? []) watcher(state);
  }

  /** Closes the databases that nobody has looked at for a while; each is opened again when it is asked for. */
  private sweep(): void {
    const now = performance.now();
    for (const [id, entry] of this.entries) {
      if (this.watchers.has(id) || entry.worker.busy || now - entry.used < this.idle) continue;
      this.entries.delete(id);
      void entry.worker.close();
    }
  }
}
