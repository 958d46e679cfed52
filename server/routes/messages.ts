import type { Tree } from '../../contract/index.js';
import { inUseOf, type StoredTree } from '../store/index.js';

/** The title that a text gives itself. */
export function titleIn(text: string): string {
  return /^tree\s+'((?:[^'\n]|'')*)'/m.exec(text)?.[1]?.replaceAll("''", "'") ?? 'Untitled';
}

/** A stored tree as the browser is told of it. */
export function messageOf(tree: StoredTree): Tree {
  const { id, title, kind, revision, text, file } = tree;
  return { id, title, kind, arrived: tree.arrived === 1, revision, text, file, inUse: inUseOf(tree) };
}
