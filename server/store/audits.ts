import type Database from 'better-sqlite3';

/** An audit of a tree's walls as it is kept: its state is JSON. */
export interface StoredAudit {
  readonly id: number;
  readonly begunAt: string;
  readonly revision: number;
  readonly state: string;
}

const SCHEMA = `
  create table if not exists audits (
    id integer primary key autoincrement,
    tree_id text not null references trees (id),
    revision integer not null,
    ended integer not null,
    state text not null,
    begun_at text not null default (strftime('%Y-%m-%dT%H:%M:%fZ', 'now'))
  ) strict;
  create index if not exists audits_of_tree on audits (tree_id);
`;

const COLUMNS = 'id, begun_at as begunAt, revision, state';
/** So many audits of a tree are kept. */
const MOST_KEPT = 20;

/** The audits of trees, with when they were begun and of which revision of the text. */
export class Audits {
  constructor(private readonly database: Database.Database) {
    database.exec(SCHEMA);
  }

  /** The audits of a tree, the last first; those alone that came to their end, where that is wanted. */
  of(tree: string, most: number, ended = false): StoredAudit[] {
    const sql = `select ${COLUMNS} from audits where tree_id = ?${ended ? ' and ended = 1' : ''} order by id desc limit ?`;
    return this.database.prepare(sql).all(tree, most) as StoredAudit[];
  }

  one(tree: string, id: number): StoredAudit | null {
    const sql = `select ${COLUMNS} from audits where tree_id = ? and id = ?`;
    return (this.database.prepare(sql).get(tree, id) as StoredAudit | undefined) ?? null;
  }

  /** Keeps what an audit has come to first; the oldest of many are let go of. */
  begin(tree: string, { revision, state, ended }: AuditKept & { readonly revision: number }): StoredAudit {
    const sql = `insert into audits (tree_id, revision, ended, state) values (?, ?, ?, ?) returning ${COLUMNS}`;
    const kept = this.database.prepare(sql).get(tree, revision, ended ? 1 : 0, state) as StoredAudit;
    this.database
      .prepare(
        'delete from audits where tree_id = ? and id not in (select id from audits where tree_id = ? order by id desc limit ?)',
      )
      .run(tree, tree, MOST_KEPT);
    return kept;
  }

  /** Keeps how far an audit has come. */
  goOn(id: number, { state, ended }: AuditKept): void {
    this.database.prepare('update audits set ended = ?, state = ? where id = ?').run(ended ? 1 : 0, state, id);
  }
}

/** What is kept of an audit. */
export interface AuditKept {
  readonly ended: boolean;
  readonly state: string;
}
