import { createSlice, type PayloadAction } from '@reduxjs/toolkit';
import type { DatabaseState, SaveConflict, Tree } from '../../contract/index.js';
import type { DesignView } from '../workers/design-view.js';

export type SaveState =
  | { readonly kind: 'saved' }
  | { readonly kind: 'unsaved' }
  | { readonly kind: 'saving' }
  /** The server does not answer or refuses; the text is kept in the browser. */
  | { readonly kind: 'kept'; readonly message: string }
  | { readonly kind: 'conflict'; readonly conflict: SaveConflict };

export interface Workspace {
  readonly tree: Pick<Tree, 'id' | 'kind'> | null;
  readonly text: string;
  /** The revision that the text is based on. */
  readonly revision: number;
  readonly saving: SaveState;
  /** What the worker last made of the text. */
  readonly view: DesignView | null;
  readonly database: DatabaseState | null;
}

const initialState: Workspace = { tree: null, text: '', revision: 0, saving: { kind: 'saved' }, view: null, database: null };

/** The open tree: its text, how it is saved, and what it becomes. */
export const workspace = createSlice({
  name: 'workspace',
  initialState,
  reducers: {
    opened: (_state, action: PayloadAction<{ tree: Tree; draft: { text: string; basedOn: number } | null }>): Workspace => {
      const { tree, draft } = action.payload;
      return {
        ...initialState,
        tree: { id: tree.id, kind: tree.kind },
        text: draft?.text ?? tree.text,
        revision: draft?.basedOn ?? tree.revision,
        saving: draft === null ? { kind: 'saved' } : { kind: 'unsaved' },
      };
    },
    closed: () => initialState,
    textChanged: (state, action: PayloadAction<string>) => {
      state.text = action.payload;
      if (state.saving.kind !== 'conflict') state.saving = { kind: 'unsaved' };
    },
    savingBegan: (state) => {
      state.saving = { kind: 'saving' };
    },
    saved: (state, action: PayloadAction<{ revision: number; text: string }>) => {
      state.revision = action.payload.revision;
      state.saving = { kind: state.text === action.payload.text ? 'saved' : 'unsaved' };
    },
    savingFailed: (state, action: PayloadAction<string>) => {
      state.saving = { kind: 'kept', message: action.payload };
    },
    conflicted: (state, action: PayloadAction<SaveConflict>) => {
      state.saving = { kind: 'conflict', conflict: action.payload };
    },
    /** One's own text goes on; it is saved on top of the other, which stays a revision. */
    conflictSettled: (state) => {
      if (state.saving.kind !== 'conflict') return;
      state.revision = state.saving.conflict.revision;
      state.saving = { kind: 'unsaved' };
    },
    /** The other text goes on; both are revisions by now. */
    theirsTaken: (state, action: PayloadAction<{ text: string; revision: number }>) => {
      state.text = action.payload.text;
      state.revision = action.payload.revision;
      state.saving = { kind: 'saved' };
    },
    viewMade: (state, action: PayloadAction<DesignView>) => {
      (state as { view: DesignView | null }).view = action.payload;
    },
    databaseChanged: (state, action: PayloadAction<DatabaseState>) => {
      state.database = action.payload;
    },
  },
});

export const {
  opened,
  closed,
  textChanged,
  savingBegan,
  saved,
  savingFailed,
  conflicted,
  conflictSettled,
  theirsTaken,
  viewMade,
  databaseChanged,
} = workspace.actions;
