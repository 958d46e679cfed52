import { useCallback, useState } from 'react';
import type { CommandsDone } from '../../../../contract/index.js';
import { failureMessage, useCarryOutMutation } from '../../../app/api.js';
import { untilSaved } from '../../../app/saving.js';
import { store, useAppSelector } from '../../../app/store.js';

type Done = Extract<CommandsDone, { ok: true }>;

/** Writes rows of the open tree's database. */
export interface Write {
  readonly busy: boolean;
  /** Why the last write was refused; empty where it was not. */
  readonly problem: string;
  /** Carries commands out to stay; null where they were refused. */
  write(text: string): Promise<Done | null>;
  forget(): void;
}

/** Writes by commands, all of a write in one transaction; a refusal is told in the design's words. */
export function useWrite(tree: string): Write {
  const [carryOut, { isLoading }] = useCarryOutMutation();
  const [problem, setProblem] = useState('');
  const write = useCallback(
    async (text: string): Promise<Done | null> => {
      // Rows are those of the text as it is saved.
      await untilSaved(() => store.getState().workspace);
      const { data, error } = await carryOut({ tree, ask: { text } });
      if (data === undefined) setProblem(failureMessage(error));
      else if (data.ok) setProblem('');
      else setProblem(refusalIn(data));
      return data?.ok === true ? data : null;
    },
    [carryOut, tree],
  );
  return { busy: isLoading, problem, write, forget: () => setProblem('') };
}

function refusalIn({ findings, problems }: Extract<CommandsDone, { ok: false }>): string {
  const errors = findings.filter(({ weight }) => weight === 'error' || problems.length === 0);
  return [...errors.map(({ message }) => message), ...problems].join(' ');
}

/** Whether rows can be written from this page. */
export function useMayWrite(): boolean {
  return useAppSelector(({ workspace }) => workspace.database?.status === 'ready' && workspace.database.locked === null);
}
