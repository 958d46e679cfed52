import type { LoadWay } from '../notation/index.js';

/** What loading by a way cost. */
export interface WayCost {
  readonly way: LoadWay;
  readonly statements: number;
  /** The lines that the engine handed over. */
  readonly rows: number;
  readonly bytes: number;
  /** The middle of several runs, in the database. */
  readonly milliseconds: number;
  /** Why it cannot be compared: it was refused, cut off, or answered otherwise. Null where it can. */
  readonly problem: string | null;
}

/** How long a way takes where each statement is so many milliseconds on its way there and back. */
export function timeAt({ milliseconds, statements }: WayCost, delay: number): number {
  return milliseconds + statements * delay;
}

/** A way is taken for another only where that is so much slower: else by batch, whose statements are the plainest. */
const WORTH = 1.15;

/**
 * Which way to take at a delay, and why, in one sentence; null where there is none to compare.
 *
 * @param delay milliseconds for each statement on its way there and back
 */
export function adviceOn(costs: readonly WayCost[], delay: number): { readonly way: LoadWay; readonly text: string } | null {
  const fit = costs.filter(({ problem }) => problem === null);
  const [first, ...others] = [...fit].sort((a, b) => timeAt(a, delay) - timeAt(b, delay));
  if (first === undefined) return null;
  const batch = fit.find(({ way }) => way === 'batch');
  const best = batch !== undefined && timeAt(batch, delay) <= timeAt(first, delay) * WORTH ? batch : first;
  const rest = [first, ...others].filter((one) => one !== best);
  const compared = rest.map((one) => `by ${one.way} ${against(best, one, delay)}`);
  return {
    way: best.way,
    text: `Load by ${best.way}: ${written(best, delay)}.${compared.length === 0 ? '' : ` ${sentence(compared)}`}`,
  };
}

function written(cost: WayCost, delay: number): string {
  return `${counted(cost.statements, 'statement')}, ${counted(cost.rows, 'line')}, ${shownTime(timeAt(cost, delay))}`;
}

/** What is against a way, beside the best: the first thing that tells. */
function against(best: WayCost, other: WayCost, delay: number): string {
  const times = timeAt(other, delay) / Math.max(0.05, timeAt(best, delay));
  const slower =
    times >= WORTH
      ? `takes ${times < 10 ? times.toFixed(1) : Math.round(times).toLocaleString('en')} times as long`
      : 'takes as long';
  if (other.way === 'row' && other.statements > best.statements) return `asks ${counted(other.statements, 'time')} and ${slower}`;
  if (other.rows > best.rows * 1.5) return `brings ${counted(other.rows, 'line')} and ${slower}`;
  return slower;
}

function sentence(parts: readonly string[]): string {
  const all = parts.join('; ');
  return `${all.charAt(0).toUpperCase()}${all.slice(1)}.`;
}

function counted(number: number, word: string): string {
  return `${number.toLocaleString('en')} ${word}${number === 1 ? '' : 's'}`;
}

function shownTime(milliseconds: number): string {
  return milliseconds < 10 ? `${milliseconds.toFixed(1)} ms` : `${Math.round(milliseconds).toLocaleString('en')} ms`;
}
