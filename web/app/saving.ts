import { createListenerMiddleware, isAnyOf, type ListenerEffectAPI } from '@reduxjs/toolkit';
import type { Caller } from './api.js';
import { type SaveResult, saveText } from './save-text.js';
import {
  opened,
  redone,
  saved,
  savingBegan,
  savingFailed,
  textChanged,
  theirsCame,
  undone,
  type Workspace,
} from './workspace.js';

const CALM = 600;
const RETRY = 2500;

interface Draft {
  readonly text: string;
  readonly basedOn: number;
  /** The text of the revision that it is based on, so that it can be brought together with a newer one. */
  readonly base?: string;
}

const draftKey = (tree: string) => `family-tree.draft.${tree}`;

/** What was typed and never confirmed as saved, kept in this browser. */
export function draftOf(tree: string): Draft | null {
  const kept = localStorage.getItem(draftKey(tree));
  if (kept === null) return null;
  try {
    const draft = JSON.parse(kept) as Partial<Draft>;
    return typeof draft.text === 'string' && typeof draft.basedOn === 'number'
      ? { text: draft.text, basedOn: draft.basedOn, ...(typeof draft.base === 'string' ? { base: draft.base } : {}) }
      : null;
  } catch {
    return null;
  }
}

type SavingListener = ListenerEffectAPI<{ workspace: Workspace }, Caller>;

export const saving = createListenerMiddleware<{ workspace: Workspace }, Caller>();

/** The trees that a saving loop is at work for; there is never more than one for a tree. */
const underWay = new Set<string>();

/**
 * Each change is kept in the browser at once, and saved a moment after the last keystroke; without an answer, again and again.
 */
saving.startListening({
  matcher: isAnyOf(textChanged, undone, redone, theirsCame, opened),
  effect: async (_action, listener) => {
    const { tree, text, revision, base, saving: state } = listener.getState().workspace;
    if (tree === null || state.kind === 'saved') return;
    keepDraft(tree.id, { text, basedOn: revision, base });
    if (state.kind === 'conflict' || underWay.has(tree.id)) return;
    underWay.add(tree.id);
    try {
      await saveUntilDone(tree.id, listener);
    } finally {
      underWay.delete(tree.id);
    }
  },
});

async function saveUntilDone(id: string, listener: SavingListener): Promise<void> {
  const isOpen = () => listener.getState().workspace.tree?.id === id;
  for (;;) {
    for (let seen: string | null = null; seen !== listener.getState().workspace.text; ) {
      seen = listener.getState().workspace.text;
      await listener.delay(CALM);
    }
    if (!isOpen()) {
      await saveDraft(id, listener);
      return;
    }
    const { text, revision } = listener.getState().workspace;
    listener.dispatch(savingBegan());
    const result = await saveText(listener.dispatch, id, { text, basedOn: revision });
    if (!isOpen()) {
      const draft = draftOf(id);
      // What was typed while the save was under way is based on it.
      if (result.kind === 'saved' && draft !== null) keepDraft(id, { text: draft.text, basedOn: result.revision });
      await saveDraft(id, listener);
      return;
    }
    switch (result.kind) {
      case 'saved':
        listener.dispatch(saved({ revision: result.revision, text }));
        if (listener.getState().workspace.text === text) {
          dropDraft(id);
          return;
        }
        keepDraft(id, { text: listener.getState().workspace.text, basedOn: result.revision, base: text });
        break;
      case 'conflict':
        listener.dispatch(theirsCame(result.conflict));
        if (listener.getState().workspace.saving.kind === 'conflict') return;
        if (listener.getState().workspace.saving.kind === 'saved') {
          dropDraft(id);
          return;
        }
        break;
      case 'failed':
        listener.dispatch(savingFailed(result.message));
        if (!result.offline) return;
        await listener.delay(RETRY);
    }
  }
}

/** Saves what a tree was closed with; without an answer it stays in the browser, and is saved when the tree is opened. */
async function saveDraft(id: string, listener: SavingListener): Promise<void> {
  const draft = draftOf(id);
  if (draft === null) return;
  const result = await saveText(listener.dispatch, id, draft);
  if (result.kind !== 'saved') return;
  if (draftOf(id)?.text === draft.text) dropDraft(id);
}

/**
 * Settles a clash. Both sides are saved as revisions first, and what was chosen on top of them, so that nothing of
 * either is lost whichever is taken.
 *
 * @param latest the revision that the server has now
 * @param overFile the text of the bound file that may be written over, where the clash is with the file
 */
export async function settleClash(
  dispatch: Caller,
  tree: string,
  sides: { readonly mine: string; readonly theirs: string; readonly chosen: string },
  latest: number,
  overFile?: string,
): Promise<SaveResult> {
  let result = await saveText(dispatch, tree, { text: sides.mine, basedOn: latest });
  // Theirs is a revision already, unless it stands in the file alone.
  if (overFile !== undefined && result.kind === 'saved')
    result = await saveText(dispatch, tree, { text: sides.theirs, basedOn: result.revision });
  if (result.kind !== 'saved') return result;
  return saveText(dispatch, tree, {
    text: sides.chosen,
    basedOn: result.revision,
    ...(overFile === undefined ? {} : { overFile }),
  });
}

const LONGEST_WAIT = 5000;

/** Waits until the text as it stands is on the server, or until it is plain that it will not be for now. */
export async function untilSaved(state: () => Workspace): Promise<void> {
  const started = performance.now();
  while (['unsaved', 'saving'].includes(state().saving.kind) && performance.now() - started < LONGEST_WAIT) {
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

/** Forgets what the browser kept, once the server has it. */
export function dropDraft(tree: string): void {
  localStorage.removeItem(draftKey(tree));
}

function keepDraft(tree: string, draft: Draft): void {
  try {
    localStorage.setItem(draftKey(tree), JSON.stringify(draft));
  } catch {
    // A browser that keeps nothing still saves to the server.
  }
}
