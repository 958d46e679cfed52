import type { DatabaseInUse } from '../../contract/index.js';
import { readAddress } from '../../engines/index.js';
import type { StoredTree } from './store.js';

/** The database that a tree uses. */
export function inUseOf({ address, label, unlocked, password }: StoredTree): DatabaseInUse {
  const common = { address, label, unlocked: unlocked === 1, passwordKept: password !== null };
  const read = address === null ? null : readAddress(address);
  if (read === null || !read.ok || read.place.kind === 'sqlite') return { ...common, kind: 'sqlite', dialect: 'sqlite' };
  if (read.place.kind === 'embedded') return { ...common, kind: 'embedded', dialect: 'postgres' };
  return { ...common, kind: 'server', dialect: read.place.address.engine };
}
