import { randomUUID } from 'node:crypto';
import type Database from 'better-sqlite3';

/** A database that a design is carried over to, beside the one that its tree looks at. */
export interface StoredDatabase {
  readonly id: string;
  readonly label: string;
  /** The file of the data folder; null for one on a server. */
  readonly file: string | null;
  /** The server's address, without a password; null for a file. */
  readonly address: string | null;
  /** Its password, encrypted; null where it is not kept. */
  readonly password: string | null;
}

const SCHEMA = `
  create table if not exists design_databases (
    id text primary key,
    tree_id text not null references trees (id),
    label text not null,
    file text,
    address text,
    password text,
    added_at text not null default (strftime('%Y-%m-%dT%H:%M:%fZ', 'now')),
    check ((file is null) <> (address is null))
  ) strict;
  create index if not exists design_databases_of_tree on design_databases (tree_id);
  create table if not exists plan_answers (
    tree_id text primary key references trees (id),
    answers text not null
  ) strict, without rowid;
`;

const COLUMNS = 'id, label, file, address, password';

/** The databases of designs, and what was answered to their plans. */
export class DesignDatabases {
  constructor(private readonly database: Database.Database) {
    database.exec(SCHEMA);
  }

  /** Those of a tree, in the order in which they were added. */
  of(tree: string): StoredDatabase[] {
    const sql = `select ${COLUMNS} from design_databases where tree_id = ? order by added_at, id`;
    return this.database.prepare(sql).all(tree) as StoredDatabase[];
  }

  add(tree: string, { label, file, address, password }: Omit<StoredDatabase, 'id'>): StoredDatabase {
    const sql = `insert into design_databases (id, tree_id, label, file, address, password) values (?, ?, ?, ?, ?, ?) returning ${COLUMNS}`;
    return this.database.prepare(sql).get(randomUUID(), tree, label, file, address, password) as StoredDatabase;
  }

  /** Lets go of a database; the database itself stays where it is. */
  remove(tree: string, id: string): boolean {
    return this.database.prepare('delete from design_databases where tree_id = ? and id = ?').run(tree, id).changes > 0;
  }

  /** What was answered to what plans ask, as lines. */
  answers(tree: string): string {
    const found = this.database.prepare('select answers from plan_answers where tree_id = ?').pluck().get(tree);
    return typeof found === 'string' ? found : '';
  }

  /** Keeps answers, where what is kept is still what was seen; whether it was. */
  keepAnswers(tree: string, answers: string, instead: string): boolean {
    return this.database.transaction(() => {
      if (this.answers(tree) !== instead) return false;
      const sql =
        'insert into plan_answers (tree_id, answers) values (?, ?) on conflict do update set answers = excluded.answers';
      this.database.prepare(sql).run(tree, answers);
      return true;
    })();
  }
}
