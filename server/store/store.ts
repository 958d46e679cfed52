import { randomUUID } from 'node:crypto';
import Database from 'better-sqlite3';
import type { WrittenCommands } from '../../contract/index.js';
import { parse } from '../../core/notation/index.js';
import { changedLines } from '../../core/revisions/index.js';
import { Audits } from './audits.js';
import { DesignDatabases } from './design-databases.js';
import { type KeptArrival, readArrival, writeArrival } from './kept-arrival.js';

export interface StoredTree {
  readonly id: string;
  readonly title: string;
  readonly kind: 'made' | 'brought in';
  /** The database file of a brought-in tree, in the data folder. */
  readonly database: string | null;
  readonly revision: number;
  readonly text: string;
  readonly savedAt: string;
  /** The server, or the embedded engine, whose database is in use; null for a SQLite file of its own. */
  readonly address: string | null;
  /** Its password, encrypted; null where it is not kept. */
  readonly password: string | null;
  /** What kind of place it is, as *production*; shown in the top bar. */
  readonly label: string | null;
  /** Whether this program may write there: 1 or 0. */
  readonly unlocked: number;
  /** Which part of a server's database came in, as JSON; null for all. */
  readonly part: string | null;
  /** 1 where its database came in with it. */
  readonly arrived: number;
  /** When it was taken off the shelf; null where it stands there. */
  readonly takenOffAt: string | null;
  /** The file that the text is bound to, and what of it was last seen or written; null for none. */
  readonly file: string | null;
  readonly fileText: string | null;
}

/** Commands that a person has carried out on a tree's scratch database. */
export interface StoredCommands {
  readonly id: number;
  readonly text: string;
  /** What the keys that are made up for their rows are derived from: the same each time that they are carried out. */
  readonly seed: string;
  readonly writtenAt: string;
  /** Why they cannot be taken back; null where they can. */
  readonly lacks: string | null;
  /** The file of the data folder whose lines they are, and what the lines become, as JSON; null for commands. */
  readonly file: string | null;
  readonly lines: string | null;
}

/** Commands as a page is told of them. @param unfit why they could not be carried out again; null where they were */
export function writtenAsTold({ id, text, writtenAt, lacks, file }: StoredCommands, unfit: string | null): WrittenCommands {
  return { id, text, writtenAt, unfit, lacks, isFile: file !== null };
}

/** Where commands were carried out, and what it takes to put back what they touched, as JSON; in a scratch database nothing. */
export interface CarriedOutAt {
  readonly place: string | null;
  readonly undo: string | null;
  readonly lacks: string | null;
  /** Of lines of a file that are to be put in again: the file, and what they become, as JSON. */
  readonly lines?: { readonly file: string; readonly wish: string };
}

/** Where a revision came from. */
export type RevisionSource = 'page' | 'file';

export interface StoredRevision {
  readonly number: number;
  readonly savedAt: string;
  readonly source: RevisionSource;
  readonly added: number;
  readonly removed: number;
}

export type SaveOutcome =
  | { readonly kind: 'saved'; readonly revision: number }
  | { readonly kind: 'conflict'; readonly latest: StoredTree }
  | { readonly kind: 'missing' };

const SCHEMA = `
  create table if not exists trees (
    id text primary key,
    title text not null,
    kind text not null check (kind in ('made', 'brought in')),
    database text,
    created_at text not null default (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
  ) strict;
  create table if not exists revisions (
    tree_id text not null references trees (id),
    number integer not null,
    text text not null,
    saved_at text not null default (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')),
    primary key (tree_id, number)
  ) strict;
  create table if not exists unkept_files (name text primary key) strict, without rowid;
  create table if not exists agreed_sql (
    tree_id text not null references trees (id),
    digest text not null,
    agreed_at text not null default (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')),
    primary key (tree_id, digest)
  ) strict, without rowid;
  create table if not exists written_commands (
    id integer primary key autoincrement,
    tree_id text not null references trees (id),
    text text not null,
    seed text not null,
    written_at text not null default (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
  ) strict;
  create index if not exists written_commands_of_tree on written_commands (tree_id);
  create table if not exists preferences (name text primary key, value text not null) strict;
`;

/** What a store of an earlier version lacks: `[table, column, declaration]`. */
const LATER_COLUMNS = [
  ['trees', 'file', 'text'],
  ['trees', 'file_text', 'text'],
  ['trees', 'arrival', 'text'],
  ['trees', 'address', 'text'],
  ['trees', 'password', 'text'],
  ['trees', 'label', 'text'],
  ['trees', 'unlocked', 'integer not null default 0'],
  ['trees', 'part', 'text'],
  ['trees', 'taken_off_at', 'text'],
  ['written_commands', 'place', 'text'],
  ['written_commands', 'undo', 'text'],
  ['written_commands', 'lacks', 'text'],
  ['written_commands', 'file', 'text'],
  ['written_commands', 'lines', 'text'],
  ['revisions', 'source', "text not null default 'page'"],
  ['revisions', 'added', 'integer not null default 0'],
  ['revisions', 'removed', 'integer not null default 0'],
] as const;

const WRITTEN = 'id, text, seed, written_at as writtenAt, lacks, file, lines';

const LATEST = `
  select trees.id, trees.title, trees.kind, trees.database, trees.address, trees.password, trees.label, trees.unlocked, trees.part, trees.file, trees.file_text as fileText, trees.taken_off_at as takenOffAt, trees.arrival is not null as arrived,
    revisions.number as revision, revisions.text, revisions.saved_at as savedAt
  from trees
  join revisions on revisions.tree_id = trees.id
  where revisions.number = (select max(number) from revisions where tree_id = trees.id)`;

/**
 * The program's own database: trees, every revision of their texts, preferences. Each write is a transaction that
 * is on the disk before it is answered, so that nothing shown as saved is ever lost.
 */
export class Store {
  private readonly entityCounts = new Map<string, { readonly revision: number; readonly count: number }>();

  private readonly database: Database.Database;
  /** The databases that designs are carried over to. */
  readonly designDatabases: DesignDatabases;
  readonly audits: Audits;

  /** @param mostPages how large the file may grow, in pages; as large as the disk where none is given */
  constructor(path: string, mostPages?: number) {
    this.database = new Database(path);
    this.database.pragma('journal_mode = wal');
    this.database.pragma('synchronous = full');
    this.database.pragma('foreign_keys = on');
    if (mostPages !== undefined) this.database.pragma(`max_page_count = ${mostPages}`);
    this.database.exec(SCHEMA);
    this.designDatabases = new DesignDatabases(this.database);
    this.audits = new Audits(this.database);
    for (const [table, column, declaration] of LATER_COLUMNS) {
      const columns = this.database.pragma(`table_info(${table})`) as { name: string }[];
      if (columns.some(({ name }) => name === column)) continue;
      this.database.exec(`alter table ${table} add column ${column} ${declaration}`);
    }
  }

  /** All trees that stand on the shelf. */
  trees(): StoredTree[] {
    return this.database
      .prepare(`${LATEST} and trees.taken_off_at is null order by revisions.saved_at desc`)
      .all() as StoredTree[];
  }

  /** All trees without their texts, the last saved first; those that were taken off the shelf too. */
  summaries(): Omit<StoredTree, 'text' | 'fileText'>[] {
    const sql = LATEST.replace('revisions.text, ', '').replace('trees.file_text as fileText,', '');
    return this.database.prepare(`${sql} order by revisions.saved_at desc`).all() as Omit<StoredTree, 'text' | 'fileText'>[];
  }

  /** How many entities the text of a tree declares: read once for each revision, so that the shelf reads no text again. */
  entitiesOf(id: string, revision: number): number {
    const known = this.entityCounts.get(id);
    if (known?.revision === revision) return known.count;
    const text = this.tree(id)?.text;
    const count = text === undefined ? 0 : parse(text).declarations.filter(({ kind }) => kind === 'entity').length;
    this.entityCounts.set(id, { revision, count });
    return count;
  }

  tree(id: string): StoredTree | null {
    return (this.database.prepare(`${LATEST} and trees.id = ?`).get(id) as StoredTree | undefined) ?? null;
  }

  add(title: string, text: string, kind: StoredTree['kind'], database: string | null, file: string | null = null): StoredTree {
    const id = randomUUID();
    this.database.transaction(() => {
      this.database
        .prepare('insert into trees (id, title, kind, database, file, file_text) values (?, ?, ?, ?, ?, ?)')
        .run(id, title, kind, database, file, file === null ? null : text);
      this.database
        .prepare('insert into revisions (tree_id, number, text, source) values (?, 1, ?, ?)')
        .run(id, text, file === null ? 'page' : 'file');
    })();
    const added = this.tree(id);
    if (added === null) throw new Error(`tree ${id} was added and is not there`);
    return added;
  }

  /**
   * Saves a text as the next revision, if it was based on the latest; else nothing is written.
   *
   * @param file what the bound file holds and this text was brought together with. It becomes a revision before, and is
   *   what the file was last seen with from then on, so that it may be written over
   */
  save(
    id: string,
    text: string,
    title: string,
    basedOn: number,
    source: RevisionSource = 'page',
    file: string | null = null,
  ): SaveOutcome {
    return this.database.transaction((): SaveOutcome => {
      const latest = this.tree(id);
      if (latest === null) return { kind: 'missing' };
      if (latest.text !== text && latest.revision !== basedOn) return { kind: 'conflict', latest };
      let { revision } = latest;
      let before = latest.text;
      const add = (next: string, from: RevisionSource) => {
        if (next === before) return;
        revision += 1;
        const { added, removed } = changedLines(before, next);
        this.database
          .prepare('insert into revisions (tree_id, number, text, source, added, removed) values (?, ?, ?, ?, ?, ?)')
          .run(id, revision, next, from, added, removed);
        before = next;
      };
      if (file !== null) {
        if (!this.hasRevision(id, file)) add(file, 'file');
        this.setFileText(id, file);
      }
      add(text, source);
      this.database.prepare('update trees set title = ? where id = ?').run(title, id);
      return { kind: 'saved', revision };
    })();
  }

  private hasRevision(id: string, text: string): boolean {
    return this.lastRevisionOf(id, text) !== null;
  }

  /** The number of the latest revision that holds a text; null where none does. */
  lastRevisionOf(id: string, text: string): number | null {
    const sql = 'select max(number) from revisions where tree_id = ? and text = ?';
    return this.database.prepare(sql).pluck().get(id, text) as number | null;
  }

  /** How a brought-in database came in; null for a tree that was made here. */
  arrival(id: string): KeptArrival | null {
    const kept = this.database.prepare('select arrival from trees where id = ?').pluck().get(id) as string | null | undefined;
    return kept == null ? null : readArrival(kept);
  }

  /** Keeps how a database came in, and where it is looked at from now on. */
  setArrival(id: string, arrival: KeptArrival, database: string): void {
    this.database.prepare('update trees set arrival = ?, database = ? where id = ?').run(writeArrival(arrival), database, id);
  }

  /** Keeps which database a tree uses from now on. */
  setDatabase(
    id: string,
    { address, password, label, unlocked, part }: Pick<StoredTree, 'address' | 'password' | 'label' | 'unlocked' | 'part'>,
  ): void {
    this.database
      .prepare('update trees set address = ?, password = ?, label = ?, unlocked = ?, part = ? where id = ?')
      .run(address, password, label, unlocked, part, id);
  }

  /** Has a tree look at a SQLite file as it is, or make a database of its own again. */
  setLookedAt(id: string, file: string | null): void {
    this.database
      .prepare('update trees set kind = ?, database = ? where id = ?')
      .run(file === null ? 'made' : 'brought in', file, id);
  }

  /** Lets this program write to a tree's database, or no longer. */
  setUnlocked(id: string, unlocked: boolean): void {
    this.database.prepare('update trees set unlocked = ? where id = ?').run(unlocked ? 1 : 0, id);
  }

  /** Notes a file of the data folder before it is made, which no tree has yet: one that stays so is removed at the next start. */
  noteFile(name: string): void {
    this.database.prepare('insert or ignore into unkept_files (name) values (?)').run(name);
  }

  /** A tree has the file now, or it is gone. */
  forgetNote(name: string): void {
    this.database.prepare('delete from unkept_files where name = ?').run(name);
  }

  /** The files that were noted and that no tree has. */
  unkeptFiles(): string[] {
    const sql = `select name from unkept_files where name not in (select database from trees where database is not null)
      and name not in (select file from written_commands where file is not null)`;
    return this.database.prepare(sql).pluck().all() as string[];
  }

  /** The digests of the SQL that a person has agreed to for a tree. */
  agreed(id: string): string[] {
    return this.database.prepare('select digest from agreed_sql where tree_id = ?').pluck().all(id) as string[];
  }

  /** Keeps that a person has agreed to SQL. */
  agree(id: string, digests: readonly string[]): void {
    const insert = this.database.prepare('insert or ignore into agreed_sql (tree_id, digest) values (?, ?)');
    this.database.transaction(() => {
      for (const digest of digests) insert.run(id, digest);
    })();
  }

  /** The commands that were carried out on a database of a tree, in their order. @param place null for its scratch databases */
  writtenCommands(id: string, place: string | null): StoredCommands[] {
    const sql = `select ${WRITTEN} from written_commands where tree_id = ? and place is ? order by id`;
    return this.database.prepare(sql).all(id, place) as StoredCommands[];
  }

  /** What it takes to put back what commands touched, as JSON; null where that was not kept. */
  undoOf(id: string, commands: number): string | null {
    const sql = 'select undo from written_commands where tree_id = ? and id = ?';
    return (this.database.prepare(sql).pluck().get(id, commands) as string | null | undefined) ?? null;
  }

  /** Keeps commands that were carried out. */
  keepCommands(id: string, text: string, seed: string, { place, undo, lacks, lines }: CarriedOutAt): StoredCommands {
    const sql = `insert into written_commands (tree_id, text, seed, place, undo, lacks, file, lines) values (?, ?, ?, ?, ?, ?, ?, ?) returning ${WRITTEN}`;
    return this.database
      .prepare(sql)
      .get(id, text, seed, place, undo, lacks, lines?.file ?? null, lines?.wish ?? null) as StoredCommands;
  }

  /** Keeps that what was carried out at a place can be taken back no more. @param lacks why not */
  closeCommands(id: string, place: string, lacks: string): void {
    const sql = 'update written_commands set lacks = ?, undo = null where tree_id = ? and place = ? and lacks is null';
    this.database.prepare(sql).run(lacks, id, place);
  }

  /** Whether what was written into a scratch database is the lines of a file of the data folder. */
  keepsFile(file: string): boolean {
    return this.database.prepare('select 1 from written_commands where file = ?').get(file) !== undefined;
  }

  /** Lets go of commands that were kept; whether there were any. */
  forgetCommands(id: string, commands: number): boolean {
    const sql = 'delete from written_commands where tree_id = ? and id = ?';
    return this.database.prepare(sql).run(id, commands).changes > 0;
  }

  /** The tree that is bound to a file. */
  treeOfFile(file: string): StoredTree | null {
    return (this.database.prepare(`${LATEST} and trees.file = ?`).get(file) as StoredTree | undefined) ?? null;
  }

  /** Takes a tree off the shelf, or puts it back. It keeps its text and its revisions, and has its address still. */
  setTakenOff(id: string, off: boolean): void {
    const sql = `update trees set taken_off_at = ${off ? "strftime('%Y-%m-%dT%H:%M:%fZ', 'now')" : 'null'} where id = ?`;
    this.database.prepare(sql).run(id);
  }

  /** Remembers what a tree's file was last seen or written with. */
  setFileText(id: string, text: string): void {
    this.database.prepare('update trees set file_text = ? where id = ?').run(text, id);
  }

  /** The latest revisions, the newest first. */
  revisions(id: string): StoredRevision[] {
    const sql =
      'select number, saved_at as savedAt, source, added, removed from revisions where tree_id = ? order by number desc limit 500';
    return this.database.prepare(sql).all(id) as StoredRevision[];
  }

  revision(id: string, number: number): { number: number; savedAt: string; text: string } | null {
    const sql = 'select number, saved_at as savedAt, text from revisions where tree_id = ? and number = ?';
    return (this.database.prepare(sql).get(id, number) as { number: number; savedAt: string; text: string } | undefined) ?? null;
  }

  preferences(): Record<string, string> {
    const rows = this.database.prepare('select name, value from preferences').all() as { name: string; value: string }[];
    return Object.fromEntries(rows.map(({ name, value }) => [name, value]));
  }

  setPreference(name: string, value: string): void {
    this.database
      .prepare('insert into preferences (name, value) values (?, ?) on conflict (name) do update set value = excluded.value')
      .run(name, value);
  }

  close(): void {
    this.database.close();
  }
}
