import { useCallback, useRef, useState } from 'react';
import type { Run, RunResult } from '../../../contract/index.js';
import { failureMessage, useRunMutation } from '../../app/api.js';
import { behalf } from '../../app/behalf.js';
import { untilSaved } from '../../app/saving.js';
import { store } from '../../app/store.js';
import type { RunOutcome } from './outcome.js';
import { remember, type TriedRun, triedOf } from './tried.js';
import type { Draft } from './use-draft.js';

type Answered = Extract<RunResult, { ok: true }>;

const NOTHING: RunOutcome = { kind: 'none' };

/** What is asked for beside an answer: its plans measured, the number of rows beside a page. */
export type AskedMore = Pick<Run, 'measured' | 'total'>;

/** What came of running queries of a tree, and the runs that were made in this browser. */
export interface Runs {
  readonly shown: RunOutcome;
  readonly running: boolean;
  /** What the run before answered, where the same query was run again or changed. */
  readonly before: Answered | null;
  readonly tried: readonly TriedRun[];
  /** What was run last, as it was asked; null where nothing was. */
  readonly asked: Run | null;
  /** @param more what is asked for beside the answer */
  start(draft: Pick<Draft, 'text' | 'head' | 'values' | 'parameters'>, more?: AskedMore): Promise<void>;
  /** Runs one statement in the SQL of the database, which only reads. */
  startSql(text: string): Promise<void>;
  stop(): void;
  /** Another query stands here: what was answered is of no more interest. */
  forget(): void;
}

/** Runs queries of a tree, one at a time; a run that is stopped is ended in the database too. */
export function useRun(tree: string): Runs {
  const [run, { isLoading }] = useRunMutation();
  const [shown, setShown] = useState<RunOutcome>(NOTHING);
  const [before, setBefore] = useState<Answered | null>(null);
  const [last, setLast] = useState<Run | null>(null);
  const [tried, setTried] = useState<readonly TriedRun[]>(() => triedOf(tree));
  const under = useRef<ReturnType<typeof run> | null>(null);
  const forget = useCallback(() => {
    setShown(NOTHING);
    setBefore(null);
  }, []);
  /** Shows what comes of a run; null where it was stopped, or did not come about. */
  const answerTo = async (wanted: Run): Promise<RunResult | null> => {
    await untilSaved(() => store.getState().workspace);
    const asked = run({ tree, run: wanted });
    under.current = asked;
    const { data: result, error } = await asked;
    if (under.current !== asked) return null;
    if (shown.kind === 'result' && shown.result.ok) setBefore(shown.result);
    if (result === undefined) {
      setShown({ kind: 'failed', message: failureMessage(error) });
      return null;
    }
    setShown({ kind: 'result', result });
    setLast(wanted);
    return result;
  };
  return {
    shown,
    running: isLoading,
    before,
    tried,
    asked: last,
    forget,
    start: async ({ text, head, values, parameters }, more = {}) => {
      const given = Object.fromEntries(parameters.map(({ name }) => [name, values[name] ?? null]));
      // What is asked once more later is asked on behalf of the same.
      const { as = 'system' } = behalf();
      const wanted: Run = { query: { kind: 'text', text, head }, parameters: given, as, ...more };
      const result = await answerTo(wanted);
      if (result?.ok !== true) return;
      const outcome = `${result.rows} rows, ${result.log.reduce((sum, { times }) => sum + times, 0)} statements`;
      setTried(remember(tree, { text, head, values, at: Date.now(), outcome }));
    },
    startSql: async (text) => {
      await answerTo({ query: { kind: 'sql', text }, parameters: {} });
    },
    stop: () => {
      under.current?.abort();
      under.current = null;
      setShown({ kind: 'failed', message: 'Stopped. The statement was ended; nothing else was touched.' });
    },
  };
}
