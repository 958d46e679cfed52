import { useCallback } from 'react';
import type { Click } from '../workers/asks.js';
import { askDesign } from './design-client.js';
import { store, useAppDispatch } from './store.js';
import { textChanged } from './workspace.js';

/** Does something to the text by a click. Gives what would be newly wrong; the text is then left as it is. */
export function useClick(): (click: Click, what: string) => Promise<readonly string[]> {
  const dispatch = useAppDispatch();
  return useCallback(
    async (click, what) => {
      const { text, problems } = await askDesign('click', { text: store.getState().workspace.text, click });
      if (problems.length === 0) dispatch(textChanged(text, what));
      return problems;
    },
    [dispatch],
  );
}
