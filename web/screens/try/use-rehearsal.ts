import { useCallback, useRef, useState } from 'react';
import type { CommandsDone } from '../../../contract/index.js';
import { failureMessage, useCarryOutMutation, useRehearseMutation } from '../../app/api.js';
import { untilSaved } from '../../app/saving.js';
import { store } from '../../app/store.js';

/** What came of commands. */
export type RehearsalOutcome =
  | { readonly kind: 'none' }
  | { readonly kind: 'failed'; readonly message: string }
  /** `text`: the commands as they were carried out; `stays`: what they did was not taken back. */
  | { readonly kind: 'result'; readonly result: CommandsDone; readonly text: string; readonly stays: boolean };

/** The commands of a tree that are rehearsed, or carried out to stay, one text at a time. */
export interface Rehearsals {
  readonly shown: RehearsalOutcome;
  readonly running: boolean;
  /** @param stays whether what they do is to stay */
  start(text: string, stays?: boolean): Promise<void>;
  stop(): void;
}

/** Carries commands out on a tree's database: they are told, and where they are only rehearsed, taken back. */
export function useRehearsal(tree: string): Rehearsals {
  const [rehearse, { isLoading: rehearsing }] = useRehearseMutation();
  const [carryOut, { isLoading: writing }] = useCarryOutMutation();
  const [shown, setShown] = useState<RehearsalOutcome>({ kind: 'none' });
  const under = useRef<ReturnType<typeof rehearse> | null>(null);
  const start = useCallback(
    async (text: string, stays = false) => {
      await untilSaved(() => store.getState().workspace);
      const asked = (stays ? carryOut : rehearse)({ tree, ask: { text } });
      under.current = asked;
      const { data: result, error } = await asked;
      if (under.current !== asked) return;
      setShown(
        result === undefined ? { kind: 'failed', message: failureMessage(error) } : { kind: 'result', result, text, stays },
      );
    },
    [rehearse, carryOut, tree],
  );
  return {
    shown,
    running: rehearsing || writing,
    start,
    stop: () => {
      under.current?.abort();
      under.current = null;
      setShown({ kind: 'failed', message: 'Stopped. Nothing of it stays.' });
    },
  };
}
