import type { DatabaseInUse } from './database.js';
import type { Tree } from './trees.js';

/** The dialect of the database in use; null where the text itself says of which it is. */
export function spokenBy({ kind, inUse }: Pick<Tree, 'kind' | 'inUse'>): DatabaseInUse['dialect'] | null {
  return kind === 'brought in' && inUse.kind === 'own file' ? null : inUse.dialect;
}
