import type { ToldChange } from '../../../contract/index.js';

/** How a verdict is shown: its sign, its colour, and what it says. */
export const VERDICTS: Readonly<
  Record<ToldChange['verdict'], { readonly sign: string; readonly look: string; readonly words: string }>
> = {
  safe: { sign: '✓', look: 'text-fine', words: 'safe' },
  'needs an answer': { sign: '?', look: 'text-to-many', words: 'needs an answer' },
  'loses data': { sign: '✕', look: 'text-harm', words: 'loses data' },
};

/** The changes in the order in which a person reads. */
export const KINDS: readonly { readonly kind: ToldChange['kind']; readonly title: string }[] = [
  { kind: 'new', title: 'New' },
  { kind: 'changed', title: 'Changes' },
  { kind: 'gone', title: 'Goes' },
];

/** So many rows, in words. */
export function rowsText(rows: number): string {
  return `${rows.toLocaleString('en')} ${rows === 1 ? 'row' : 'rows'}`;
}

/** A time that took so many milliseconds. */
export function timeText(milliseconds: number): string {
  if (milliseconds < 10) return `${milliseconds.toFixed(1)} ms`;
  return milliseconds < 10_000 ? `${Math.round(milliseconds).toLocaleString('en')} ms` : `${(milliseconds / 1000).toFixed(1)} s`;
}

/** A moment as a person reads it. @param at as a timestamp in wire form */
export function momentText(at: string): string {
  const moment = new Date(at);
  return Number.isNaN(moment.getTime())
    ? at
    : moment.toLocaleString('en-GB', { day: 'numeric', month: 'short', year: 'numeric', hour: '2-digit', minute: '2-digit' });
}
