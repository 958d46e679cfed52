import { useCallback, useEffect, useRef, useState } from 'react';
import type { QueryRun, WaysMeasured } from '../../../contract/index.js';
import { failureMessage, useMeasureWaysMutation } from '../../app/api.js';

export type Measured = Extract<WaysMeasured, { ok: true }>;

/** As many rows as are asked for when all are. */
const ALL = 5_000;
/** The numbers of parents at which a way's growth is looked at. */
const STEPS = [1, 10, 100, 1_000];

/** What was measured so far of a query's ways to load. */
export interface WaysState {
  /** Over all rows of the query; null until it has arrived. */
  readonly whole: Measured | null;
  /** Over fewer parents, and over all, the fewest first. */
  readonly growth: readonly Measured[];
  readonly running: boolean;
  readonly problem: string | null;
  stop(): void;
}

/** Measures the ways to load of a query in the background: all its rows first, and then ever more of them. */
export function useWays(tree: string, run: QueryRun): WaysState {
  const [measure] = useMeasureWaysMutation();
  const [growth, setGrowth] = useState<readonly Measured[]>([]);
  const [whole, setWhole] = useState<Measured | null>(null);
  const [running, setRunning] = useState(true);
  const [problem, setProblem] = useState<string | null>(null);
  const under = useRef<{ abort(): void } | null>(null);
  const stop = useCallback(() => {
    under.current?.abort();
    under.current = null;
    setRunning(false);
  }, []);
  useEffect(() => {
    let left = false;
    const one = async (most: number): Promise<Measured | null> => {
      const asked = measure({ tree, ask: { run, most } });
      under.current = asked;
      const { data, error } = await asked;
      if (left || under.current !== asked) return null;
      if (data?.ok === true) return data;
      setProblem(
        data === undefined ? failureMessage(error) : [...data.findings.map(({ message }) => message), ...data.problems].join(' '),
      );
      return null;
    };
    const all = async (): Promise<void> => {
      const found = await one(ALL);
      if (found === null) return;
      setWhole(found);
      for (const most of STEPS.filter((step) => step < found.parents)) {
        const fewer = await one(most);
        if (fewer === null) return;
        setGrowth((before) => [...before, fewer]);
      }
    };
    void all().finally(() => {
      if (!left) setRunning(false);
    });
    return () => {
      left = true;
      under.current?.abort();
    };
  }, [measure, tree, run]);
  return { whole, growth: whole === null ? growth : [...growth, whole], running, problem, stop };
}
