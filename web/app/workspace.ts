import { createSlice, original, type PayloadAction } from '@reduxjs/toolkit';
import type { DatabaseState, FileState, SaveConflict, Tree } from '../../contract/index.js';
import { merge } from '../../core/revisions/index.js';
import type { DesignView } from '../../core/view-models/index.js';
import type { KeptHistory } from './kept-history.js';
import { carried, NO_HISTORY, redo, remembered, type TextHistory, undo } from './undo.js';

export type SaveState =
  | { readonly kind: 'saved' }
  | { readonly kind: 'unsaved' }
  | { readonly kind: 'saving' }
  /** The server does not answer or refuses; the text is kept in the browser. */
  | { readonly kind: 'kept'; readonly message: string }
  | { readonly kind: 'conflict'; readonly conflict: SaveConflict };

export interface Workspace {
  readonly tree: Pick<Tree, 'id' | 'kind' | 'arrived' | 'file' | 'inUse'> | null;
  readonly text: string;
  /** The revision that the text is based on, and its text. */
  readonly revision: number;
  readonly base: string;
  /** The newest revision that the server told of. */
  readonly heard: number;
  readonly saving: SaveState;
  readonly history: TextHistory;
  /** What the worker last made of the text. */
  readonly view: DesignView | null;
  readonly database: DatabaseState | null;
  /** How the bound file stands to the text; null where there is none. */
  readonly file: FileState | null;
  /** Changes of others were brought in since the person last looked: how often. */
  readonly broughtIn: number;
}

const initialState: Workspace = {
  tree: null,
  text: '',
  revision: 0,
  base: '',
  heard: 0,
  saving: { kind: 'saved' },
  history: NO_HISTORY,
  view: null,
  database: null,
  file: null,
  broughtIn: 0,
};

/** The open tree: its text, how it is saved, and what it becomes. */
export const workspace = createSlice({
  name: 'workspace',
  initialState,
  reducers: {
    opened: (
      _state,
      action: PayloadAction<{
        tree: Tree;
        draft: { text: string; basedOn: number; base?: string } | null;
        /** What could be taken back when the tree was open last. */
        kept?: KeptHistory | null;
      }>,
    ): Workspace => {
      const { tree, draft, kept = null } = action.payload;
      const text = draft?.text ?? tree.text;
      return {
        ...initialState,
        tree: { id: tree.id, kind: tree.kind, arrived: tree.arrived, file: tree.file, inUse: tree.inUse },
        text,
        history: kept === null ? NO_HISTORY : carried(kept.history, kept.text, text),
        revision: draft?.basedOn ?? tree.revision,
        base: draft === null || draft.basedOn === tree.revision ? tree.text : (draft.base ?? tree.text),
        heard: draft?.basedOn ?? tree.revision,
        saving: draft === null ? { kind: 'saved' } : { kind: 'unsaved' },
      };
    },
    closed: () => initialState,
    /** Another database is in use from now on. */
    placed: (state, { payload }: PayloadAction<Pick<Tree, 'inUse' | 'kind'>>) => {
      if (state.tree !== null) Object.assign(state.tree, { inUse: payload.inUse, kind: payload.kind });
    },
    /** The person changed the text: by typing, or by a click that says what it did. */
    textChanged: {
      prepare: (text: string, what: string | null = null) => ({ payload: { text, what, at: Date.now() } }),
      reducer: (draft, action: PayloadAction<{ text: string; what: string | null; at: number }>): Workspace => {
        const { text, what, at } = action.payload;
        const state = original(draft) ?? draft;
        return text === state.text ? state : changed(state, text, remembered(state.history, state.text, text, at, what));
      },
    },
    undone: (draft): Workspace => {
      const state = original(draft) ?? draft;
      const back = undo(state.history, state.text);
      return back === null ? state : changed(state, back.text, back.history);
    },
    redone: (draft): Workspace => {
      const state = original(draft) ?? draft;
      const forth = redo(state.history, state.text);
      return forth === null ? state : changed(state, forth.text, forth.history);
    },
    savingBegan: (state) => {
      state.saving = { kind: 'saving' };
    },
    saved: (state, action: PayloadAction<{ revision: number; text: string }>) => {
      state.revision = action.payload.revision;
      state.base = action.payload.text;
      state.saving = { kind: state.text === action.payload.text ? 'saved' : 'unsaved' };
    },
    savingFailed: (state, action: PayloadAction<string>) => {
      state.saving = { kind: 'kept', message: action.payload };
    },
    /** The server has a newer revision. */
    revisionHeard: (state, action: PayloadAction<number>) => {
      state.heard = Math.max(state.heard, action.payload);
    },
    /**
     * Somebody else's text came. What does not clash is brought together line by line; else both are kept, and a
     * person chooses.
     */
    theirsCame: (state, action: PayloadAction<SaveConflict>): Workspace => {
      const { text: theirs, revision } = action.payload;
      const merged = merge(state.base, state.text, theirs);
      if (merged.kind === 'clashes') return { ...state, saving: { kind: 'conflict', conflict: action.payload } };
      return {
        ...state,
        ...basedOn(state, theirs, revision),
        text: merged.text,
        history: carried(state.history, state.text, merged.text),
        saving: { kind: merged.text === theirs ? 'saved' : 'unsaved' },
        broughtIn: merged.text === state.text ? state.broughtIn : state.broughtIn + 1,
      };
    },
    /** A person settled a clash, with somebody else or with the bound file; all of it is saved. */
    clashSettled: (state, action: PayloadAction<{ text: string; revision: number }>): Workspace => ({
      ...state,
      ...basedOn(state, action.payload.text, action.payload.revision),
      text: action.payload.text,
      history: carried(state.history, state.text, action.payload.text),
      saving: { kind: 'saved' },
      file: state.file === null ? null : { kind: 'same' },
    }),
    // Frozen, so that the store does not walk through all of it, each time.
    viewMade: (draft, action: PayloadAction<DesignView>): Workspace => ({
      ...(original(draft) ?? draft),
      view: Object.freeze(action.payload),
    }),
    databaseChanged: (state, action: PayloadAction<DatabaseState>): Workspace => ({ ...state, database: action.payload }),
    fileChanged: (state, action: PayloadAction<FileState>): Workspace => ({ ...state, file: action.payload }),
  },
});

/** Of the state itself and not of the store's draft of it: what a draft spreads is looked through whole, at each key. */
function changed(state: Workspace, text: string, history: TextHistory): Workspace {
  return { ...state, text, history, saving: state.saving.kind === 'conflict' ? state.saving : { kind: 'unsaved' } };
}

function basedOn(state: Workspace, base: string, revision: number): Pick<Workspace, 'base' | 'revision' | 'heard'> {
  return { base, revision, heard: Math.max(state.heard, revision) };
}

export const {
  opened,
  placed,
  closed,
  textChanged,
  undone,
  redone,
  savingBegan,
  saved,
  savingFailed,
  revisionHeard,
  theirsCame,
  clashSettled,
  viewMade,
  databaseChanged,
  fileChanged,
} = workspace.actions;
