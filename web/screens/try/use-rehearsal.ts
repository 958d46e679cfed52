import { useCallback, useRef, useState } from 'react';
import type { CommandsRehearsed } from '../../../contract/index.js';
import { failureMessage, useRehearseMutation } from '../../app/api.js';
import { untilSaved } from '../../app/saving.js';
import { store } from '../../app/store.js';

/** What came of rehearsing commands. */
export type RehearsalOutcome =
  | { readonly kind: 'none' }
  | { readonly kind: 'failed'; readonly message: string }
  /** `text`: the commands as they were rehearsed. */
  | { readonly kind: 'result'; readonly result: CommandsRehearsed; readonly text: string };

/** The commands of a tree that are rehearsed, one text at a time. */
export interface Rehearsals {
  readonly shown: RehearsalOutcome;
  readonly running: boolean;
  start(text: string): Promise<void>;
  stop(): void;
}

/** Rehearses commands on a tree's database: they are carried out, told, and taken back. */
export function useRehearsal(tree: string): Rehearsals {
  const [rehearse, { isLoading }] = useRehearseMutation();
  const [shown, setShown] = useState<RehearsalOutcome>({ kind: 'none' });
  const under = useRef<ReturnType<typeof rehearse> | null>(null);
  const start = useCallback(
    async (text: string) => {
      await untilSaved(() => store.getState().workspace);
      const asked = rehearse({ tree, ask: { text } });
      under.current = asked;
      const { data: result, error } = await asked;
      if (under.current !== asked) return;
      setShown(result === undefined ? { kind: 'failed', message: failureMessage(error) } : { kind: 'result', result, text });
    },
    [rehearse, tree],
  );
  return {
    shown,
    running: isLoading,
    start,
    stop: () => {
      under.current?.abort();
      under.current = null;
      setShown({ kind: 'failed', message: 'Stopped. Nothing of it stays.' });
    },
  };
}
