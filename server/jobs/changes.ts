import { randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import { isAbsolute, join, resolve } from 'node:path';
import type {
  ApplyPlanAsk,
  DatabaseStands,
  DesignDatabase,
  NewDesignDatabase,
  PlanApplied,
  PlanAsk,
  RehearsePlanAsk,
  SettlePlanAsk,
} from '../../contract/index.js';
import { embeddedEngine, fileEngine, makeEmptyAt, readAddress } from '../../engines/index.js';
import { digestWithPowers, inUseOf, placeOfRows, type Store, type StoredDatabase, type StoredTree } from '../store/index.js';
import type {
  ApplyOutcome,
  ApplyWish,
  AskOptions,
  ChangesOf,
  DatabaseMeant,
  LetGoWish,
  NewFile,
  PlanWish,
  SettleWish,
  Stands,
} from '../workers/index.js';
import type { Databases } from './databases.js';
import { type PlacesInUse, shownAddress } from './places.js';

/** What comes of asking: the answer as JSON, or a problem in words. */
type Answer = Awaited<ReturnType<Databases['ask']>>;

/** A server is asked for this long, in milliseconds, before it counts as one that does not answer. */
const LONGEST_CALL = 600_000;
const IN_USE = 'in use';

/** The databases that designs are carried over to: which there are, where each stands, and what is planned and done on it. */
export class Changes {
  constructor(
    private readonly folder: string,
    private readonly store: Store,
    private readonly databases: Databases,
    private readonly places: PlacesInUse,
  ) {}

  /** The databases of a tree: the one that it looks at as it is, and those that were added. */
  of(tree: StoredTree): DesignDatabase[] {
    const added = this.store.designDatabases.of(tree.id).map(toldDatabase);
    return tree.kind === 'made' ? added : [inUseAsItIs(tree), ...added];
  }

  /** Gives a tree a database; the problem in words where it cannot be had. */
  async add(tree: StoredTree, wanted: NewDesignDatabase): Promise<DesignDatabase | { readonly problem: string }> {
    if (wanted.kind === 'server') return this.addServer(tree, wanted);
    const { label, samples } = wanted;
    const file = `${randomUUID()}.db`;
    this.store.noteFile(file);
    const path = join(this.folder, file);
    const wish: NewFile = { path, text: tree.text, samples };
    const answer = await this.databases.ask(tree, 'make file', wish);
    const problem = 'problem' in answer ? answer.problem : (JSON.parse(answer.json) as { problem: string | null }).problem;
    if (problem !== null) {
      await rm(path, { force: true });
      this.store.forgetNote(file);
      return { problem };
    }
    const added = this.store.designDatabases.add(tree.id, { label, file, address: null, password: null });
    this.store.forgetNote(file);
    return toldDatabase(added);
  }

  private async addServer(
    tree: StoredTree,
    { address, label, password, keepPassword, make }: Extract<NewDesignDatabase, { kind: 'server' }>,
  ): Promise<DesignDatabase | { readonly problem: string }> {
    const opened = await this.places.at(address, password, LONGEST_CALL);
    if ('problem' in opened) return opened;
    const made = make ? await makeEmptyAt(opened.access) : null;
    if (made?.ok === false) return { problem: made.problem.message };
    const kept = this.places.remember(address, opened.access.password, keepPassword);
    const shown = shownAddress(address);
    return toldDatabase(this.store.designDatabases.add(tree.id, { label, file: null, address: shown, password: kept }));
  }

  /** Where a file of the data folder is that is a database of a tree; null where it is none. */
  fileOf(tree: StoredTree, id: string): string | null {
    const file =
      id === IN_USE ? ownFileOf(tree) : (this.store.designDatabases.of(tree.id).find((one) => one.id === id)?.file ?? null);
    return file === null ? null : join(this.folder, file);
  }

  /** Plans for one of them. */
  async plan(tree: StoredTree, id: string, { goal, agreed, powers }: PlanAsk, options: AskOptions): Promise<Answer> {
    const of = await this.meant(tree, id);
    if ('problem' in of) return of;
    this.store.agree(tree.id, [...agreed, ...(powers ? agreed.map(digestWithPowers) : [])]);
    const arrived = tree.arrived === 1 && id === IN_USE ? (this.store.revision(tree.id, 1)?.text ?? null) : null;
    const wish: PlanWish = {
      ...of,
      of: id,
      goal,
      answers: this.store.designDatabases.answers(tree.id),
      madeOf: arrived,
      agreed: this.store.agreed(tree.id),
    };
    return this.databases.ask(tree, 'plan', wish, options);
  }

  /** Tries a plan on a copy of the rows. */
  rehearse(tree: StoredTree, ask: RehearsePlanAsk, options: AskOptions): Promise<Answer> {
    return this.databases.ask(tree, 'rehearse plan', ask, options);
  }

  /** Carries a plan out. What was written by commands before cannot be taken back by itself any more. */
  async apply(tree: StoredTree, id: string, wanted: ApplyPlanAsk, options: AskOptions): Promise<Answer> {
    const database = this.of(tree).find((one) => one.id === id);
    if (database === undefined) return { problem: 'This database is not among those of the design any more.' };
    if (database.typed !== null && wanted.typed !== database.typed)
      return { problem: `On a server its database is typed: ${database.typed}. Something else was, so nothing was done.` };
    const wish: ApplyWish = { plan: wanted.plan, of: id, name: wanted.name, allowLoss: wanted.allowLoss };
    const answer = await this.databases.ask(tree, 'apply plan', wish, options);
    if ('problem' in answer) return answer;
    const outcome = JSON.parse(answer.json) as ApplyOutcome;
    if (outcome.kind !== 'applied') return answer;
    const { words, ...applied } = outcome;
    this.store.agree(tree.id, [...words, ...words.map(digestWithPowers)]);
    const told = { json: JSON.stringify(applied satisfies PlanApplied) };
    if (id !== IN_USE) return told;
    const place = placeOfRows(tree);
    if (place !== null)
      this.store.closeCommands(tree.id, place, `the tables were changed since, by number ${applied.number} in Changes`);
    this.databases.renew(tree);
    return told;
  }

  /** Finishes a plan that was left half done on one of them, or takes it back. */
  async settle(tree: StoredTree, id: string, way: SettlePlanAsk['way'], options: AskOptions): Promise<Answer> {
    const of = await this.meant(tree, id);
    if ('problem' in of) return of;
    const wish: SettleWish = { ...of, way, agreed: this.store.agreed(tree.id) };
    const answer = await this.databases.ask(tree, 'settle plan', wish, options);
    if (id === IN_USE) this.databases.renew(tree);
    return answer;
  }

  /** Lets go of what is kept aside of a plan on one of them. */
  async letGo(tree: StoredTree, id: string, number: number, options: AskOptions): Promise<Answer> {
    const of = await this.meant(tree, id);
    if ('problem' in of) return of;
    const wish: LetGoWish = { ...of, number };
    return this.databases.ask(tree, 'let go', wish, options);
  }

  /** What somebody else's hand has changed in one of them, as edits of the text. */
  async drift(tree: StoredTree, id: string): Promise<Answer> {
    const of = await this.meant(tree, id);
    return 'problem' in of ? of : this.databases.ask(tree, 'drift', of);
  }

  /** Where one of them stands. */
  async stands(tree: StoredTree, id: string): Promise<DatabaseStands> {
    const of = await this.meant(tree, id);
    if ('problem' in of) return { ok: false, problem: of.problem };
    const answer = await this.databases.ask(tree, 'stands', of);
    if ('problem' in answer) return { ok: false, problem: answer.problem };
    const told = JSON.parse(answer.json) as Extract<DatabaseStands, { ok: false }> | Stands;
    if (!told.ok) return told;
    const { textAfter, ...stands } = told;
    return { ...stands, revision: textAfter === null ? null : this.store.lastRevisionOf(tree.id, textAfter) };
  }

  private async meant(tree: StoredTree, id: string): Promise<ChangesOf | { readonly problem: string }> {
    const { text, revision } = tree;
    const on = (database: DatabaseMeant): ChangesOf => ({ tree: tree.id, folder: this.folder, text, revision, database });
    if (id === IN_USE) return on({ kind: 'in use' });
    const stored = this.store.designDatabases.of(tree.id).find((one) => one.id === id);
    if (stored === undefined) return { problem: 'This database is not among those of the design any more.' };
    const { file, label, address, password } = stored;
    if (file !== null) return on({ kind: 'file', path: join(this.folder, file), label });
    const opened = await this.places.kept(address ?? '', password, LONGEST_CALL);
    return 'problem' in opened ? opened : on({ kind: 'server', access: opened.access, address: address ?? '' });
  }
}

/** The file of the data folder that a tree looks at as it is; null where that is somewhere else. */
function ownFileOf(tree: StoredTree): string | null {
  const { kind, database } = tree;
  return kind === 'brought in' && inUseOf(tree).kind === 'own file' && database !== null && !isAbsolute(database)
    ? database
    : null;
}

function inUseAsItIs(tree: StoredTree): DesignDatabase {
  const { kind, dialect, label, address } = inUseOf(tree);
  const own = ownFileOf(tree);
  const common = { id: IN_USE, dialect, typed: null, download: own !== null };
  switch (kind) {
    case 'server':
      return { ...common, kind, label: label ?? 'the server', where: address ?? '', typed: databaseIn(address) };
    case 'embedded':
      return { ...common, kind, label: 'its own copy', where: `the embedded ${embeddedEngine.title} of this tree` };
    case 'own file':
      return own === null
        ? { ...common, kind: 'file', label: 'the file', where: resolve(tree.database ?? '') }
        : { ...common, kind: 'file', label: 'its own copy', where: 'a file of the data folder' };
  }
}

function toldDatabase({ id, label, file, address }: StoredDatabase): DesignDatabase {
  const read = address === null ? null : readAddress(address);
  const isServer = read?.ok === true && read.place.kind === 'server';
  return {
    id,
    label,
    kind: isServer ? 'server' : 'file',
    dialect: isServer ? read.place.address.engine : fileEngine.dialect,
    where: address ?? 'a file of the data folder',
    typed: isServer ? databaseIn(address) : null,
    download: file !== null,
  };
}

/** What a database is called on its server. */
function databaseIn(address: string | null): string | null {
  const read = address === null ? null : readAddress(address);
  return read?.ok === true && read.place.kind === 'server' ? read.place.address.database : null;
}
