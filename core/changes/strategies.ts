import type { DialectName } from '../notation/index.js';
import { mariadbStrategy } from './mariadb.js';
import { postgresStrategy } from './postgres.js';
import { sqliteStrategy } from './sqlite.js';
import type { Strategy } from './working.js';

/** How one engine is changed. */
interface EngineChanges {
  readonly strategy: Strategy;
  /** What stands around the statements in a script, so that it ends at the first error and leaves nothing half done. */
  readonly script: {
    readonly head: readonly string[];
    readonly tail: readonly string[];
    /** A question that counts what must not be, as a statement that fails where it finds some. */
    check?(sql: string): string;
  };
  /** Who waits for what while it is carried out, as the engine's manual has it. */
  readonly locks: string;
  /** Whether columns have their new names before rows are asked about. */
  readonly renamesFirst: boolean;
  /** A column of its own by which it tells rows apart that have no key, and goes on to while they are changed; null for none. */
  readonly rowAddress: string | null;
  /** Whether each definition commits by itself, so that a plan is a sequence that is noted step by step. */
  readonly commits: boolean;
}

/** How each engine is changed. One row for each. */
export const strategies: Readonly<Record<DialectName, EngineChanges>> = {
  sqlite: {
    strategy: sqliteStrategy,
    renamesFirst: true,
    // https://www.sqlite.org/lang_createtable.html#rowid: a table without one has a key.
    rowAddress: 'rowid',
    commits: false,
    // https://www.sqlite.org/lockingv3.html: a writer is alone, and readers wait for it only while it commits.
    locks: 'Nobody else writes to the file until all of it is done; who reads waits for the end of it alone.',
    script: {
      head: ['.bail on', 'pragma foreign_keys = off;', 'pragma legacy_alter_table = on;', 'begin immediate;'],
      tail: [
        '-- Rows that point at nothing would be listed here: then say “rollback” instead.',
        'pragma foreign_key_check;',
        'commit;',
        'pragma legacy_alter_table = off;',
        'pragma foreign_keys = on;',
      ],
    },
  },
  postgres: {
    strategy: postgresStrategy,
    renamesFirst: true,
    // A row's ctid is another once it is changed.
    rowAddress: null,
    commits: false,
    // https://www.postgresql.org/docs/15/explicit-locking.html: what ALTER TABLE and DROP TABLE take is held to the end.
    locks:
      'Each table is held from its first statement until all of it is done: nobody reads or writes it meanwhile. The others are free.',
    script: {
      head: ['\\set ON_ERROR_STOP on', 'begin;', 'set local check_function_bodies = off;', 'set constraints all immediate;'],
      tail: ['commit;'],
    },
  },
  mariadb: {
    strategy: mariadbStrategy,
    renamesFirst: false,
    rowAddress: null,
    commits: true,
    // “SQL statements that cause an implicit commit”; the triggers that refuse writers are the plan's own.
    locks:
      'Whoever writes to a table that is made anew is refused until it has its place; for a moment it is not there. Readers go on.',
    script: {
      head: ['set foreign_key_checks = 0;', "set sql_mode = concat(@@sql_mode, ',NO_AUTO_VALUE_ON_ZERO');"],
      tail: ['set foreign_key_checks = 1;'],
      check: (sql) =>
        `begin not atomic\n  if (\n${sql}\n  ) > 0 then\n    signal sqlstate '45000' set message_text = 'Rows would point at nothing';\n  end if;\nend`,
    },
  },
};
