/** One change of a text that can be taken back: what stood at `from` before, and what stands there since. */
export interface TextStep {
  readonly from: number;
  readonly removed: string;
  readonly inserted: string;
  /** When it was last added to, in milliseconds. */
  readonly at: number;
  /** What a click did, in words; null for typing. */
  readonly what: string | null;
}

export interface TextHistory {
  readonly past: readonly TextStep[];
  readonly future: readonly TextStep[];
}

export const NO_HISTORY: TextHistory = { past: [], future: [] };

const MOST_STEPS = 500;
/** Typing without a longer pause is one step. */
const PAUSE = 700;

/** The smallest single replacement that leads from one text to another. */
export function stepBetween(before: string, after: string): Pick<TextStep, 'from' | 'removed' | 'inserted'> {
  let from = 0;
  while (from < before.length && from < after.length && before[from] === after[from]) from += 1;
  let tail = 0;
  const most = Math.min(before.length, after.length) - from;
  while (tail < most && before[before.length - 1 - tail] === after[after.length - 1 - tail]) tail += 1;
  return { from, removed: before.slice(from, before.length - tail), inserted: after.slice(from, after.length - tail) };
}

/** Remembers a change. What is typed on at the same place without a pause joins the step before. */
export function remembered(history: TextHistory, before: string, after: string, at: number, what: string | null): TextHistory {
  const step: TextStep = { ...stepBetween(before, after), at, what };
  const last = history.past.at(-1);
  const joined = last === undefined || what !== null || last.what !== null || at - last.at > PAUSE ? null : join(last, step);
  const past = joined === null ? [...history.past, step] : [...history.past.slice(0, -1), joined];
  return { past: past.slice(-MOST_STEPS), future: [] };
}

function join(last: TextStep, next: TextStep): TextStep | null {
  if (next.removed === '' && next.from === last.from + last.inserted.length)
    return { ...last, inserted: last.inserted + next.inserted, at: next.at };
  const insideEnd = next.from + next.removed.length === last.from + last.inserted.length && next.from >= last.from;
  if (insideEnd && next.inserted === '') return { ...last, inserted: last.inserted.slice(0, next.from - last.from), at: next.at };
  if (next.inserted === '' && last.inserted === '' && next.from + next.removed.length === last.from)
    return { ...last, from: next.from, removed: next.removed + last.removed, at: next.at };
  return null;
}

/** The text without its last step; null where there is none to take back. */
export function undo(history: TextHistory, text: string): { readonly text: string; readonly history: TextHistory } | null {
  const step = history.past.at(-1);
  if (step === undefined) return null;
  return {
    text: text.slice(0, step.from) + step.removed + text.slice(step.from + step.inserted.length),
    history: { past: history.past.slice(0, -1), future: [step, ...history.future] },
  };
}

/** The text with the step that was last taken back. */
export function redo(history: TextHistory, text: string): { readonly text: string; readonly history: TextHistory } | null {
  const [step, ...future] = history.future;
  if (step === undefined) return null;
  return {
    text: text.slice(0, step.from) + step.inserted + text.slice(step.from + step.removed.length),
    history: { past: [...history.past, step], future },
  };
}
