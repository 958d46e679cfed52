import { useCallback, useEffect, useRef, useState } from 'react';
import type { ApplyPlanAsk, PlanApplied, PlanRehearsed, RehearsePlanAsk, WorkStep } from '../../../contract/index.js';
import { applyPlan, rehearsePlan } from '../../app/carry-out-plan.js';

type Rehearsed = Extract<PlanRehearsed, { kind: 'rehearsed' }>;

/** What is under way, what came of it, or why it was not done. */
export type WorkState =
  | { readonly kind: 'none' }
  | { readonly kind: 'working'; readonly what: 'rehearse' | 'apply'; readonly step: WorkStep }
  | { readonly kind: 'refused'; readonly problem: string }
  | { readonly kind: 'moved'; readonly differs: readonly string[] }
  | { readonly kind: 'applied'; readonly applied: Extract<PlanApplied, { kind: 'applied' }> };

/** Rehearses and applies plans of a database, one at a time; each can be stopped. */
export function useWork(at: { readonly tree: string; readonly database: string }, onEnd: () => void) {
  const [state, setState] = useState<WorkState>({ kind: 'none' });
  const [rehearsed, setRehearsed] = useState<{ readonly plan: string; readonly value: Rehearsed } | null>(null);
  const working = useRef<{ readonly what: 'rehearse' | 'apply'; readonly controller: AbortController } | null>(null);
  const { tree, database } = at;
  // Whoever looks at another database has done with this one.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the two names are what it is about
  useEffect(() => {
    setState({ kind: 'none' });
    setRehearsed(null);
    // What is being done to a database goes on, whatever screen is looked at; the history tells of it.
    return () => {
      if (working.current?.what === 'rehearse') working.current.controller.abort();
    };
  }, [tree, database]);

  const begin = useCallback((what: 'rehearse' | 'apply') => {
    const controller = new AbortController();
    working.current = { what, controller };
    setState({ kind: 'working', what, step: { what: what === 'rehearse' ? 'Beginning the rehearsal' : 'Beginning' } });
    const onStep = (step: WorkStep) =>
      setState((before) =>
        before.kind === 'working' && working.current?.controller === controller ? { ...before, step } : before,
      );
    return { signal: controller.signal, onStep };
  }, []);

  const rehearse = useCallback(
    async (ask: RehearsePlanAsk): Promise<boolean> => {
      const outcome = await rehearsePlan({ tree, database }, ask, begin('rehearse'));
      const result = 'problem' in outcome ? { kind: 'problem' as const, problem: outcome.problem } : outcome.value;
      setState(told(result));
      if (result.kind === 'moved' || result.kind === 'refused') onEnd();
      if (result.kind !== 'rehearsed') return false;
      setRehearsed({ plan: ask.plan, value: result });
      return true;
    },
    [tree, database, begin, onEnd],
  );
  const apply = useCallback(
    async (ask: ApplyPlanAsk): Promise<boolean> => {
      const outcome = await applyPlan({ tree, database }, ask, begin('apply'));
      const result = 'problem' in outcome ? { kind: 'problem' as const, problem: outcome.problem } : outcome.value;
      setState(told(result));
      onEnd();
      return result.kind === 'applied';
    },
    [tree, database, begin, onEnd],
  );
  const stop = useCallback(() => working.current?.controller.abort(), []);
  return { state, rehearsed, rehearse, apply, stop };
}

/** What a person sees of what came of it. */
function told(outcome: PlanRehearsed | PlanApplied | { readonly kind: 'problem'; readonly problem: string }): WorkState {
  switch (outcome.kind) {
    case 'rehearsed':
      return { kind: 'none' };
    case 'applied':
      return { kind: 'applied', applied: outcome };
    case 'moved':
      return outcome;
    case 'refused':
    case 'problem':
      return { kind: 'refused', problem: outcome.problem };
  }
}
