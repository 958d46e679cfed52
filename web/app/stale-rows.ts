import { createListenerMiddleware } from '@reduxjs/toolkit';
import type { DatabaseState } from '../../contract/index.js';
import { type ActorState, workedAs } from './actor.js';
import { api } from './api.js';
import { readRowsAnew } from './ask-server.js';
import { databaseChanged, type Workspace } from './workspace.js';

/** Hears that a tree's rows are others than before: what was read of them is forgotten, and asked for again where it is in view. */
export const staleRows = createListenerMiddleware<{ workspace: Workspace; actor: ActorState }>();

staleRows.startListening({
  actionCreator: databaseChanged,
  effect: (_action, listener) => {
    const { tree, database } = listener.getState().workspace;
    if (tree === null || database === null || !isOther(listener.getOriginalState().workspace.database, database)) return;
    readRowsAnew(tree.id);
    listener.dispatch(api.util.invalidateTags([{ type: 'Rows', id: tree.id }]));
  },
});

// Somebody else sees other rows.
staleRows.startListening({
  actionCreator: workedAs,
  effect: (_action, listener) => {
    const { workspace, actor } = listener.getState();
    if (workspace.tree === null || actor.as === listener.getOriginalState().actor.as) return;
    readRowsAnew(workspace.tree.id);
    listener.dispatch(api.util.invalidateTags([{ type: 'Rows', id: workspace.tree.id }]));
  },
});

/** Whether a database has other rows than the one that was heard of before. The first that is heard of has none that are stale. */
function isOther(before: DatabaseState | null, now: DatabaseState): boolean {
  if (before === null || now.status !== 'ready') return false;
  if (before.status !== 'ready' || before.revision !== now.revision) return true;
  return now.written.map(({ id }) => id).join() !== before.written.map(({ id }) => id).join();
}
