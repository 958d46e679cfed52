import type { Tree } from '../../contract/index.js';
import type { DialectName } from '../../core/notation/index.js';

/** The dialect of the database in use; null where the text itself says of which it is. */
export function spokenBy(tree: Pick<Tree, 'kind' | 'inUse'>): DialectName | null {
  return tree.kind === 'brought in' && tree.inUse.kind === 'own file' ? null : tree.inUse.dialect;
}
