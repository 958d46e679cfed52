import { useCallback, useEffect, useReducer, useRef } from 'react';
import type { LinesAsk, LinesTold, LookedAtFile, WorkStep } from '../../../../contract/index.js';
import { api } from '../../../app/api.js';
import { behalf } from '../../../app/behalf.js';
import { forgetRowFile, putLinesIn, sendRowFile } from '../../../app/row-files.js';
import { untilSaved } from '../../../app/saving.js';
import { store, useAppDispatch } from '../../../app/store.js';

/** What a person says of a file: what its columns are, and what is done with its lines. */
export type Wish = Omit<LinesAsk, 'preview' | 'entity'>;

/** How lines of a file came out, or were tried. */
export type Told = Extract<LinesTold, { ok: true }>;

/** Where bringing in lines has come to. */
export type ImportState =
  | { readonly step: 'choosing'; readonly problem: string }
  | { readonly step: 'sending'; readonly name: string; readonly share: number }
  | {
      readonly step: 'saying';
      readonly found: LookedAtFile;
      readonly wish: Wish;
      /** How the first lines came out when they were tried with this wish; null while they are. */
      readonly tried: LinesTold | null;
      readonly problem: string;
    }
  | { readonly step: 'putting'; readonly found: LookedAtFile; readonly wish: Wish; readonly done: WorkStep | null }
  | { readonly step: 'done'; readonly found: LookedAtFile; readonly wish: Wish; readonly told: Told };

type Event =
  | { readonly kind: 'send'; readonly name: string }
  | { readonly kind: 'sent'; readonly share: number }
  | { readonly kind: 'found'; readonly found: LookedAtFile }
  | { readonly kind: 'fail'; readonly problem: string }
  | { readonly kind: 'say'; readonly wish: Partial<Wish> }
  | { readonly kind: 'tried'; readonly wish: Wish; readonly tried: LinesTold }
  | { readonly kind: 'put' }
  | { readonly kind: 'step'; readonly done: WorkStep }
  | { readonly kind: 'told'; readonly told: Told }
  | { readonly kind: 'again' };

const CHOOSING: ImportState = { step: 'choosing', problem: '' };

function next(state: ImportState, event: Event): ImportState {
  switch (event.kind) {
    case 'send':
      return { step: 'sending', name: event.name, share: 0 };
    case 'sent':
      return state.step === 'sending' ? { ...state, share: event.share } : state;
    case 'found': {
      const wish: Wish = { uses: event.found.guessed, nothing: '', there: 'refuse', match: [], goodOnes: false };
      return { step: 'saying', found: event.found, wish, tried: null, problem: '' };
    }
    case 'fail':
      return state.step === 'putting' || state.step === 'saying'
        ? { step: 'saying', found: state.found, wish: state.wish, tried: null, problem: event.problem }
        : { step: 'choosing', problem: event.problem };
    case 'say':
      return state.step === 'saying' ? { ...state, wish: { ...state.wish, ...event.wish }, tried: null, problem: '' } : state;
    case 'tried':
      return state.step === 'saying' && state.wish === event.wish ? { ...state, tried: event.tried } : state;
    case 'put':
      return state.step === 'saying' ? { step: 'putting', found: state.found, wish: state.wish, done: null } : state;
    case 'step':
      return state.step === 'putting' ? { ...state, done: event.done } : state;
    case 'told':
      return state.step === 'putting' ? { step: 'done', found: state.found, wish: state.wish, told: event.told } : state;
    case 'again':
      return CHOOSING;
  }
}

/** Bringing in the lines of a file, from its choice to how they came out. */
export interface Import {
  readonly state: ImportState;
  choose(file: File): void;
  say(wish: Partial<Wish>): void;
  put(): void;
  stop(): void;
  /** Lets go of the file, to choose another. */
  again(): void;
}

/** A wish is tried once a person has paused. */
const PAUSE = 200;

export function useImport(tree: string, entity: string): Import {
  const [state, tell] = useReducer(next, CHOOSING);
  const dispatch = useAppDispatch();
  const stopping = useRef<AbortController | null>(null);
  const file = 'found' in state ? state.found.file : null;
  const wish = state.step === 'saying' ? state.wish : null;

  useEffect(() => {
    if (file === null) return;
    return () => forgetRowFile(tree, file);
  }, [tree, file]);

  useEffect(() => {
    if (wish === null || file === null) return;
    const trying = new AbortController();
    const timer = setTimeout(async () => {
      const outcome = await putLinesIn(tree, file, { ...wish, entity, preview: true, ...behalf() }, { signal: trying.signal });
      if (trying.signal.aborted) return;
      if ('problem' in outcome) tell({ kind: 'tried', wish, tried: { ok: false, problems: [outcome.problem] } });
      else tell({ kind: 'tried', wish, tried: outcome.value });
    }, PAUSE);
    return () => {
      clearTimeout(timer);
      trying.abort();
    };
  }, [tree, entity, file, wish]);

  const choose = useCallback(
    async (chosen: File) => {
      tell({ kind: 'send', name: chosen.name });
      await untilSaved(() => store.getState().workspace);
      const outcome = await sendRowFile(tree, entity, chosen, { onSent: (share) => tell({ kind: 'sent', share }) });
      if ('problem' in outcome) tell({ kind: 'fail', problem: outcome.problem });
      else tell({ kind: 'found', found: outcome.value });
    },
    [tree, entity],
  );

  const put = useCallback(async () => {
    if (wish === null || file === null) return;
    tell({ kind: 'put' });
    const work = new AbortController();
    stopping.current = work;
    const onStep = (done: WorkStep) => tell({ kind: 'step', done });
    const outcome = await putLinesIn(
      tree,
      file,
      { ...wish, entity, preview: false, ...behalf() },
      { signal: work.signal, onStep },
    );
    stopping.current = null;
    if ('problem' in outcome) tell({ kind: 'fail', problem: outcome.problem });
    else if (outcome.value.ok) {
      tell({ kind: 'told', told: outcome.value });
      if (outcome.value.kept) dispatch(api.util.invalidateTags([{ type: 'Rows', id: tree }]));
    } else tell({ kind: 'fail', problem: outcome.value.problems.join(' ') });
  }, [tree, entity, file, wish, dispatch]);

  return {
    state,
    choose: (chosen) => void choose(chosen),
    say: (said) => tell({ kind: 'say', wish: said }),
    put: () => void put(),
    stop: () => stopping.current?.abort(),
    again: () => tell({ kind: 'again' }),
  };
}
