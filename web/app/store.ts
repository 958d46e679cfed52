import { configureStore } from '@reduxjs/toolkit';
import { setupListeners } from '@reduxjs/toolkit/query';
import { useDispatch, useSelector } from 'react-redux';
import { actor } from './actor.js';
import { api } from './api.js';
import { audits } from './audits.js';
import { onReachableAgain } from './reachable.js';
import { saving } from './saving.js';
import { staleRows } from './stale-rows.js';
import { workspace } from './workspace.js';

export const store = configureStore({
  reducer: { workspace: workspace.reducer, actor: actor.reducer, audits: audits.reducer, api: api.reducer },
  // The worker's views are large and made of plain data; walking them on each action would freeze the page.
  middleware: (defaults) =>
    defaults({ serializableCheck: false, immutableCheck: false })
      .prepend(saving.middleware, staleRows.middleware)
      .concat(api.middleware),
});

setupListeners(store.dispatch, (dispatch, { onOnline }) => onReachableAgain(() => dispatch(onOnline())));

export type State = ReturnType<typeof store.getState>;

export const useAppDispatch = useDispatch.withTypes<typeof store.dispatch>();
export const useAppSelector = useSelector.withTypes<State>();
