import { createSlice, type PayloadAction } from '@reduxjs/toolkit';

/** Whoever is at work, as a text names them: `Player(2)`, `nobody`; empty for the system, which sees all rows. */
export interface ActorState {
  readonly as: string;
}

const initialState: ActorState = { as: '' };

/** On whose behalf rows are read and written, on every screen. */
export const actor = createSlice({
  name: 'actor',
  initialState,
  reducers: {
    workedAs: (_state, { payload }: PayloadAction<string>): ActorState => ({ as: payload }),
  },
});

export const { workedAs } = actor.actions;
