import { lineParts } from '../../core/revisions/index.js';

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

/** A stretch of a text that others replaced by one of another length. */
interface Stretch {
  readonly from: number;
  readonly removed: number;
  readonly inserted: number;
}

/**
 * The history of a text that others changed meanwhile: each step where its words stand now. What they changed in the words of
 * a step itself cannot be taken back any more, nor what came before it.
 *
 * @param before the text that the history leads to
 * @param after the same with what others changed
 */
export function carried(history: TextHistory, before: string, after: string): TextHistory {
  if (before === after || (history.past.length === 0 && history.future.length === 0)) return history;
  const theirs = stretchesBetween(before, after);
  return {
    past: moved([...history.past].reverse(), theirs, inverse).reverse(),
    future: moved(history.future, theirs, (step) => step),
  };
}

const inverse = (step: TextStep): TextStep => ({ ...step, removed: step.inserted, inserted: step.removed });

/** Steps in the order in which they would be done, past what others changed; up to the first that they changed themselves. */
function moved(
  steps: readonly TextStep[],
  theirs: readonly Stretch[],
  done: (step: TextStep) => Pick<TextStep, 'from' | 'removed' | 'inserted'>,
): TextStep[] {
  const kept: TextStep[] = [];
  let stretches = theirs;
  for (const step of steps) {
    const { from, removed, inserted } = done(step);
    const end = from + removed.length;
    if (stretches.some((stretch) => stretch.from < end && from < stretch.from + stretch.removed)) break;
    if (stretches.some((stretch) => stretch.removed === 0 && from < stretch.from && stretch.from < end)) break;
    const shift = stretches
      .filter((stretch) => stretch.from + stretch.removed <= from)
      .reduce((sum, stretch) => sum + stretch.inserted - stretch.removed, 0);
    kept.push({ ...step, from: from + shift });
    const growth = inserted.length - removed.length;
    stretches = stretches.map((stretch) =>
      stretch.from + stretch.removed <= from ? stretch : { ...stretch, from: stretch.from + growth },
    );
  }
  return kept;
}

function stretchesBetween(before: string, after: string): Stretch[] {
  const stretches: Stretch[] = [];
  let from = 0;
  // With a line end each, the last line is one like the others.
  for (const { kind, lines } of lineParts(`${before}\n`, `${after}\n`)) {
    const length = lines.reduce((sum, line) => sum + line.length + 1, 0);
    const last = stretches.at(-1);
    if (kind === 'added' && last !== undefined && last.from + last.removed === from)
      stretches.splice(-1, 1, { ...last, inserted: last.inserted + length });
    else if (kind !== 'same')
      stretches.push({ from, removed: kind === 'removed' ? length : 0, inserted: kind === 'added' ? length : 0 });
    if (kind !== 'added') from += length;
  }
  return stretches;
}
