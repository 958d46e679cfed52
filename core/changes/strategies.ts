import type { DialectName } from '../notation/index.js';
import { postgresStrategy } from './postgres.js';
import { sqliteStrategy } from './sqlite.js';
import type { Strategy } from './working.js';

/** How one engine is changed. */
interface EngineChanges {
  readonly strategy: Strategy;
  /** What stands around the statements in a script, so that it ends at the first error and leaves nothing half done. */
  readonly script: { readonly head: readonly string[]; readonly tail: readonly string[] };
}

/** How each engine is changed; null where it is planned what would change, and not yet carried out. */
export const strategies: Readonly<Record<DialectName, EngineChanges | null>> = {
  sqlite: {
    strategy: sqliteStrategy,
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
    script: {
      head: ['\\set ON_ERROR_STOP on', 'begin;', 'set local check_function_bodies = off;', 'set constraints all immediate;'],
      tail: ['commit;'],
    },
  },
  mariadb: null,
};
