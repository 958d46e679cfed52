import * as v from 'valibot';
import type { DatabaseInUse } from '../../contract/index.js';
import { embeddedEngine, fileEngine, readAddress } from '../../engines/index.js';
import type { StoredTree } from './store.js';

/** The database that a tree uses. */
export function inUseOf({ address, label, unlocked, password }: StoredTree): DatabaseInUse {
  const common = { address, label, unlocked: unlocked === 1, passwordKept: password !== null };
  const read = address === null ? null : readAddress(address);
  if (read === null || !read.ok || read.place.kind === 'file')
    return { ...common, kind: 'own file', dialect: fileEngine.dialect };
  if (read.place.kind === 'embedded') return { ...common, kind: 'embedded', dialect: embeddedEngine.dialect };
  return { ...common, kind: 'server', dialect: read.place.address.engine };
}

/** Where the rows of a tree are written to; null for scratch databases, which are made anew from its text. */
export function placeOfRows({ kind, address, database }: StoredTree): string | null {
  return kind === 'made' ? null : (address ?? database ?? '');
}

const Part = v.object({ schemas: v.nullable(v.array(v.string())), tables: v.nullable(v.array(v.string())) });

/** Which part of a server's database came in. */
export function partOf({ part }: StoredTree): v.InferOutput<typeof Part> {
  return part === null ? { schemas: null, tables: null } : v.parse(Part, JSON.parse(part));
}
