import type { StoredTree } from '../server/store/index.js';

/** A tree as the store has it: made of its text, with no database of somebody's own. */
export function storedTree(id: string, text: string, revision = 1): StoredTree {
  return {
    id,
    title: 'T',
    kind: 'made',
    database: null,
    revision,
    text,
    savedAt: '',
    address: null,
    password: null,
    label: null,
    unlocked: 0,
    part: null,
    file: null,
    fileText: null,
    takenOffAt: null,
    arrived: 0,
  };
}
