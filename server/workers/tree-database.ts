import { stat } from 'node:fs/promises';
import { isAbsolute, join, resolve } from 'node:path';
import type { DatabaseState, LinesAsk, WrittenCommands } from '../../contract/index.js';
import { type Design, readDesign, statedSqlOf } from '../../core/design/index.js';
import { absentFrom, relationsKept } from '../../core/schema/index.js';
import type { Wire } from '../../core/values/index.js';
import {
  type Embedded,
  type Engine,
  embeddedEngine,
  fileEngine,
  type Outcome,
  openAt,
  openEmbedded,
  openScratch,
  placeToLook,
  type RowFile,
  type Workshop,
} from '../../engines/index.js';
import {
  carryOutAgain,
  fillDatabase,
  type KeptLines,
  type MadeDatabase,
  type MakeOptions,
  makeDatabase,
  removeAt,
  setAside,
} from '../../services/index.js';
import { LONGEST_RUN } from '../longest-run.js';
import { inUseOf, partOf, writtenAsTold } from '../store/index.js';
import { actorIn } from './actor-in.js';
import type { DatabaseAccess, Writable } from './database-access.js';
import { type DatabaseMeant, type DesignDatabase, designDatabase } from './design-database.js';
import { mappingOf } from './mapping.js';
import { sqlToAgreeTo } from './sql-to-agree-to.js';

/** A tree's database, ready to be asked. */
export interface OpenDatabase {
  readonly design: Design;
  readonly engine: Engine;
  readonly sampleKeys: Readonly<Record<string, Wire>>;
  readonly madeHere: boolean;
  /** The schemas of the database that are the tree's; null for the one that is used anyway. */
  readonly schemas: readonly string[] | null;
  /** The relations of which the database keeps itself that every row has its other row, where not all do. */
  readonly kept?: ReadonlySet<string>;
  readonly revision: number;
  /** Opens it so that rows can be changed; or says why that is not to be. */
  toWrite(): Writable | { readonly problem: string };
}

/** A file, opened once more: the one that is asked is only looked at. */
function writableFile(path: string, label: string): Writable {
  const engine = fileEngine.open({ path, mode: 'write', milliseconds: LONGEST_RUN, label });
  return { engine, close: () => engine.close() };
}

/** Those who write into a database that is to go: it stays until the last of them is done. */
class Writers {
  private readonly writing = new Set<Promise<void>>();

  constructor(private readonly opened: () => Writable) {}

  open(): Writable {
    const { engine, close } = this.opened();
    let isDone = () => {};
    const done = new Promise<void>((resolve) => {
      isDone = resolve;
    });
    this.writing.add(done);
    return {
      engine,
      close: async () => {
        await close();
        this.writing.delete(done);
        isDone();
      },
    };
  }

  async ended(): Promise<void> {
    await Promise.all(this.writing);
  }
}

/** Takes back what a process of this program, which was ended, left half done in a file of its own. */
async function settleOwn(path: string, label: string): Promise<void> {
  const journal = await stat(`${path}-journal`).catch(() => null);
  if (journal === null || journal.size === 0) return;
  const { engine, close } = writableFile(path, label);
  await engine.answers();
  await close();
}

/** An engine that can write as it is, and stays open. */
function writableAsItIs(engine: Engine): Writable {
  return { engine, close: () => Promise.resolve() };
}

/** An embedded engine takes some seconds to start. */
const LONGEST_EMBEDDED = 60_000;
/** How large a scratch database may grow. */
const LARGEST_SCRATCH = 1024 ** 3;
/** What is made sooner than this, in milliseconds, is not told step by step. */
const QUICK = 800;
/** A change is waited out for a moment, so that typing does not make a database for each letter. */
const CALM = 250;

/**
 * The database of one open tree. One that is made here is made anew from the text after each change, beside the one in
 * use, which goes on answering until the new one is ready; a brought-in one is looked at as it is.
 */
export class TreeDatabase {
  private open: OpenDatabase | null = null;
  /** Takes away what was made to be looked at. */
  private remove: (() => Promise<void>) | null = null;
  private wanted: DatabaseAccess | null = null;
  private working: Promise<void> | null = null;
  private state: DatabaseState | null = null;
  private embedded: { readonly folder: string; readonly engine: Embedded } | null = null;
  /** The embedded engine that a script was brought into, and that is looked at as it is. */
  private brought: Embedded | null = null;
  private stale = false;
  private making: AbortController | null = null;

  constructor(private readonly tell: (state: DatabaseState) => void) {}

  /** Whether what was made here turned out to be gone or broken; whoever asks next has it made again. */
  get isGone(): boolean {
    return this.stale;
  }

  /** Brings the database up to a tree’s text; gives the state that it comes to. */
  async renew(wanted: DatabaseAccess): Promise<DatabaseState | null> {
    this.wanted = wanted;
    this.stale = false;
    // What is being made of an older text is of no use any more.
    this.making?.abort();
    this.working ??= this.work().finally(() => {
      this.working = null;
    });
    await this.working;
    return this.state;
  }

  /** Ends the making of the database. The one before, where there is one, goes on answering. */
  stop(): void {
    this.making?.abort();
  }

  /** Looks at another database from now on; what was made in the one before is taken away. */
  async reopen(wanted: DatabaseAccess): Promise<DatabaseState | null> {
    await this.working;
    await this.letGo();
    return this.renew(wanted);
  }

  /** The database, once it has caught up with the text as far as the text gives one. */
  async ready(): Promise<OpenDatabase | { readonly problem: string }> {
    // What was made here and is gone is made again.
    if (this.stale && this.wanted !== null && this.working === null) {
      this.say({ status: 'making', revision: this.wanted.tree.revision });
      await this.reopen(this.wanted);
    }
    await this.working;
    if (this.open !== null) return this.open;
    return { problem: problemIn(this.state) };
  }

  /** A database of the tree's design, for changes to be planned and carried out. */
  async forChanges(meant: DatabaseMeant): Promise<DesignDatabase | { readonly problem: string }> {
    await this.working;
    if (this.wanted === null) return { problem: 'The tree is not open.' };
    return designDatabase(meant, this.wanted, this.brought);
  }

  async close(): Promise<void> {
    await this.working?.catch(() => undefined);
    await this.letGo();
    await this.embedded?.engine.close();
  }

  private async letGo(): Promise<void> {
    const { open, remove } = this;
    this.open = null;
    this.remove = null;
    await open?.engine.close();
    await remove?.().catch(() => undefined);
  }

  private say(state: DatabaseState): void {
    this.state = state;
    this.tell(state);
  }

  private async work(): Promise<void> {
    for (;;) {
      const { wanted } = this;
      if (wanted === null) return;
      const { tree } = wanted;
      // The first time there is nothing to go on answering meanwhile, so nothing is waited for.
      if (tree.kind === 'made' && this.open !== null) await new Promise((done) => setTimeout(done, CALM));
      if (this.wanted !== wanted) continue;
      try {
        const state = tree.kind === 'made' ? await this.makeAnew(wanted) : await this.look(wanted);
        if (this.wanted === wanted) {
          this.say(state);
          return;
        }
      } catch (error) {
        this.say({
          status: 'failed',
          revision: tree.revision,
          message: 'The database could not be made, for a fault in this program. The text is safe.',
        });
        throw error;
      }
    }
  }

  private async makeAnew(wanted: DatabaseAccess): Promise<DatabaseState> {
    const started = performance.now();
    const { tree } = wanted;
    const failed = (message: string) => ({ status: 'failed' as const, revision: tree.revision, message });
    const { dialect, kind } = inUseOf(tree);
    const design = readDesign(tree.text, dialect);
    const asks = kind === 'own file' ? null : await asked(design, wanted);
    if (asks !== null) return asks;
    const making = new AbortController();
    this.making = making;
    const options: MakeOptions = {
      signal: making.signal,
      step: (progress) => {
        if (this.wanted === wanted && performance.now() - started > QUICK)
          this.say({ status: 'making', revision: tree.revision, progress });
      },
    };
    const made =
      kind === 'own file' ? await this.makeFile(wanted, design, options) : await this.makeElsewhere(wanted, design, options);
    this.making = null;
    if (!made.ok && making.signal.aborted)
      return { ...failed('Stopped: the rows of this text were not made. The text is safe.'), stopped: true };
    if (!made.ok) return failed(made.problem.message);
    const { engine, remove, database, toWrite } = made.value;
    const { sampleKeys, rows, unsatisfied, unheld } = database;
    const written = await writtenAgain(design, wanted, toWrite, sampleKeys);
    const before = { open: this.open, remove: this.remove };
    this.open = {
      design,
      engine: this.watched(engine),
      sampleKeys,
      madeHere: true,
      schemas: null,
      revision: tree.revision,
      toWrite,
    };
    this.remove = remove;
    await before.open?.engine.close();
    await before.remove?.();
    return {
      status: 'ready',
      revision: tree.revision,
      kind: 'made',
      rows,
      absent: [],
      milliseconds: performance.now() - started,
      unsatisfied: [...unsatisfied],
      unheld: [...unheld],
      written,
      locked: null,
    };
  }

  /** An engine whose database, where it turns out to be gone or broken, is made again for the next who asks. */
  private watched(engine: Engine): Engine {
    const looking = async <T>(outcome: Promise<Outcome<T>>): Promise<Outcome<T>> => {
      const had = await outcome;
      if (!had.ok && (had.problem.code === 'missing' || had.problem.code === 'damaged') && this.open?.engine === own)
        this.stale = true;
      return had;
    };
    const own: Engine = {
      ...engine,
      run: (name, input, options) => looking(engine.run(name, input, options)),
    };
    return own;
  }

  /** Makes a file beside the one in use. */
  private async makeFile(
    { tree, folder }: DatabaseAccess,
    design: Design,
    options: MakeOptions,
  ): Promise<Outcome<MadeElsewhere>> {
    const path = join(folder, `${tree.id}.scratch-${tree.revision}.db`);
    const inUse = this.open !== null && this.open.revision === tree.revision;
    if (inUse) await this.letGo();
    const made = await makeDatabase(design, path, { ...options, mostBytes: LARGEST_SCRATCH });
    if (!made.ok) {
      await removeAt(path);
      return made;
    }
    const label = 'The scratch database';
    const engine = fileEngine.open({ path, mode: 'look', milliseconds: LONGEST_RUN, label });
    const writers = new Writers(() => writableFile(path, label));
    const remove = async () => {
      await writers.ended();
      await removeAt(path);
    };
    return { ok: true, value: { engine, remove, database: made.value, toWrite: () => writers.open() } };
  }

  /** Makes a database of its own on the engine in use. */
  private async makeElsewhere(wanted: DatabaseAccess, design: Design, options: MakeOptions): Promise<Outcome<MadeElsewhere>> {
    const { tree } = wanted;
    const workshop = await this.workshopOf(wanted);
    if ('problem' in workshop) return { ok: false, problem: { code: 'refused', message: workshop.problem } };
    const stem = tree.id.replaceAll('-', '').slice(0, 12);
    const name = `r${tree.revision}`;
    if (this.open?.revision === tree.revision) await this.letGo();
    const scratch = await openScratch(workshop, { stem, name, first: this.open === null, design });
    if (!scratch.ok && workshop.kind === 'embedded') {
      const isBroken =
        scratch.problem.code === 'damaged' ||
        // It ends before it answers, each time: what it is to read is beyond it.
        (scratch.problem.code === 'ended' && endsAgain(await workshop.embedded.at(null).answers()));
      if (isBroken) return this.beginAnew(wanted, design, options);
    }
    if (!scratch.ok) return scratch;
    const made = await fillDatabase(design, scratch.value.engine, options);
    if (!made.ok) {
      await scratch.value.remove();
      return made;
    }
    const toWrite = () => writableAsItIs(scratch.value.engine);
    return { ok: true, value: { ...scratch.value, database: made.value, toWrite } };
  }

  /** An embedded engine whose folder is broken begins with another; the broken one is kept, under a name that says so. */
  private async beginAnew(wanted: DatabaseAccess, design: Design, options: MakeOptions): Promise<Outcome<MadeElsewhere>> {
    const broken = this.embedded;
    this.embedded = null;
    await broken?.engine.close();
    if (broken === null || (await setAside(broken.folder)) === null)
      return {
        ok: false,
        problem: {
          code: 'damaged',
          message: `The embedded ${embeddedEngine.title} of this tree is broken, and its folder cannot be moved.`,
        },
      };
    return this.makeElsewhere(wanted, design, options);
  }

  private async workshopOf({ tree, folder, access }: DatabaseAccess): Promise<Workshop | { readonly problem: string }> {
    if (inUseOf(tree).kind === 'embedded')
      return {
        kind: 'embedded',
        embedded: this.embeddedIn(join(folder, `${tree.id}.embedded`), `The embedded ${embeddedEngine.title}`),
      };
    if (tree.unlocked !== 1)
      return {
        problem:
          'The server is locked: nothing is written there. Unlock it in the top bar to try the text in a scratch database on it.',
      };
    if (access === null || 'problem' in access) return access ?? { problem: 'This tree names no server.' };
    return { kind: 'server', access: access.access };
  }

  private embeddedIn(folder: string, label: string): Embedded {
    if (this.embedded?.folder !== folder)
      this.embedded = { folder, engine: openEmbedded({ folder, label, milliseconds: LONGEST_EMBEDDED }) };
    return this.embedded.engine;
  }

  private async look(wanted: DatabaseAccess): Promise<DatabaseState> {
    const started = performance.now();
    const { tree } = wanted;
    const design = readDesign(tree.text, tree.address === null ? null : inUseOf(tree).dialect);
    const engine = this.open?.engine ?? (await this.openAsItIs(wanted));
    if ('problem' in engine) return { status: 'failed', revision: tree.revision, message: engine.problem };
    const toWrite = () => this.writableAsItIs(wanted, engine);
    const { schemas } = partOf(tree);
    this.open = { design, engine, sampleKeys: {}, madeHere: false, schemas, revision: tree.revision, toWrite };
    const looked = await engine.introspect(schemas);
    if (!looked.ok) return { status: 'failed', revision: tree.revision, message: looked.problem.message };
    this.open = { ...this.open, kept: relationsKept(design.model, looked.value.schema, design.dialect.powers.keepsKeysForAll) };
    return {
      status: 'ready',
      revision: tree.revision,
      kind: 'brought in',
      rows: {},
      unsatisfied: [],
      unheld: [],
      written: wanted.written.map((one) => writtenAsTold(one, null)),
      locked: await lockedBy(toWrite()),
      absent: absentFrom(design.model, looked.value.schema),
      milliseconds: performance.now() - started,
    };
  }

  /** A database that others made, to be written to: a copy that is this program's, or a server that a person has unlocked. */
  private writableAsItIs({ tree, folder }: DatabaseAccess, engine: Engine): ReturnType<OpenDatabase['toWrite']> {
    const { kind } = inUseOf(tree);
    if (kind === 'embedded') return writableAsItIs(engine);
    if (kind === 'server')
      return tree.unlocked === 1
        ? writableAsItIs(engine)
        : { problem: 'The server is locked: nothing is written there, not even to be taken back. Unlock it in the top bar.' };
    const path = tree.database ?? '';
    if (isAbsolute(path))
      return {
        problem: `${tree.title} is a file that is only looked at where it lies. Rehearse on a copy of it, on the command line: family-tree do … --db COPY --rehearse.`,
      };
    return writableFile(resolve(folder, path), tree.title);
  }

  /** A database that others made, where it lies; or a copy, where it has come to be written in a way that needs one. */
  private async openAsItIs({ tree, folder, access }: DatabaseAccess): Promise<Engine | { readonly problem: string }> {
    const { kind } = inUseOf(tree);
    if (kind === 'server')
      return access === null || 'problem' in access
        ? (access ?? { problem: 'This tree names no server.' })
        : openAt(access.access);
    const path = resolve(folder, tree.database ?? '');
    if (kind === 'embedded') {
      // The folder that a script was run into.
      const own = openEmbedded({ folder: path, label: tree.title, milliseconds: LONGEST_EMBEDDED });
      this.brought = own;
      return { ...own.at(null), close: () => own.close() };
    }
    const isOwn = !isAbsolute(tree.database ?? '');
    if (isOwn) await settleOwn(path, tree.title);
    const place = isOwn ? null : await placeToLook(path, join(folder, `${tree.id}.copy.db`));
    if (place !== null && !place.ok) return { problem: place.problem.message };
    return fileEngine.open({ path: place?.value.path ?? path, mode: 'look', milliseconds: LONGEST_RUN, label: tree.title });
  }
}

/** A database that was made to be looked at, and how it is taken away. */
interface MadeElsewhere {
  readonly engine: Engine;
  readonly database: MadeDatabase;
  readonly toWrite: OpenDatabase['toWrite'];
  remove(): Promise<void>;
}

/** Carries out again what was written into the scratch database before this one. */
async function writtenAgain(
  design: Design,
  { written, folder }: Pick<DatabaseAccess, 'written' | 'folder'>,
  toWrite: OpenDatabase['toWrite'],
  sampleKeys: OpenDatabase['sampleKeys'],
): Promise<WrittenCommands[]> {
  if (written.length === 0) return [];
  const writable = toWrite();
  if ('problem' in writable) return written.map((one) => writtenAsTold(one, writable.problem));
  try {
    const kept = written.map(({ id, text, seed, file, lines }) => ({
      id,
      text,
      seed,
      lines: file === null || lines === null ? null : keptLines(design, join(folder, file), lines),
    }));
    const unfit = await carryOutAgain(design, writable.engine, kept, sampleKeys);
    return written.map((one) => writtenAsTold(one, unfit.get(one.id) ?? null));
  } finally {
    await writable.close();
  }
}

/** The lines of a file that was kept, as they were put in before; or why they cannot be. */
function keptLines(design: Design, path: string, kept: string): KeptLines | { readonly problem: string } {
  const wish = JSON.parse(kept) as LinesAsk & { readonly file: Omit<RowFile, 'path'> };
  const file = { ...wish.file, path };
  const mapping = mappingOf(design, { ...wish, file });
  const behalf = actorIn(design, wish.as);
  if ('problem' in mapping) return mapping;
  return 'problem' in behalf ? behalf : { mapping, file, goodOnes: wish.goodOnes, ...behalf };
}

/** Why a database cannot be written to; null where it can. */
async function lockedBy(writable: ReturnType<OpenDatabase['toWrite']>): Promise<string | null> {
  if ('problem' in writable) return writable.problem;
  await writable.close();
  return null;
}

function endsAgain(read: Outcome<unknown>): boolean {
  return !read.ok && (read.problem.code === 'ended' || read.problem.code === 'damaged');
}

function problemIn(state: DatabaseState | null): string {
  if (state?.status === 'failed') return state.message;
  if (state?.status === 'asks')
    return 'The text states SQL of its own, which nobody has agreed to yet. Look at it and agree, in the top bar under the database.';
  return 'The database is not ready yet. Try again in a moment.';
}

/**
 * What a person is asked before the tables of a text are made anywhere but in a file of this program’s own; null
 * where there is nothing to ask, or it was agreed to before.
 */
async function asked(design: Design, { tree, access, agreed }: DatabaseAccess): Promise<DatabaseState | null> {
  const server = access !== null && 'access' in access ? access.access : null;
  const asks = await sqlToAgreeTo(statedSqlOf(design.model, design.dialect.name), {
    place: `${tree.address}`,
    server: tree.unlocked === 1 ? server : null,
    agreed,
  });
  if (asks === null) return null;
  const statements = asks.statements.map(({ sql, span, reaches, digest }) => ({
    sql,
    at: span.start,
    line: design.text.slice(0, span.start).split('\n').length,
    reaches: [...reaches],
    digest,
  }));
  const { powers } = asks;
  const where = server === null ? `the embedded ${embeddedEngine.title} of this tree` : server.label;
  return { status: 'asks', revision: tree.revision, where, statements, powers };
}
