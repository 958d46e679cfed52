import * as v from 'valibot';
import type { TextHistory } from './undo.js';

const Step = v.object({
  from: v.number(),
  removed: v.string(),
  inserted: v.string(),
  at: v.number(),
  what: v.nullable(v.string()),
});
const Kept = v.object({ text: v.string(), past: v.array(Step), future: v.array(Step) });

/** What could be taken back of a text, and the text that it leads to. */
export interface KeptHistory {
  readonly text: string;
  readonly history: TextHistory;
}

const keyOf = (tree: string) => `family-tree.history.${tree}`;

/** Keeps what can be taken back for as long as the tab is there: past a reload, and past another tree. */
export function keepHistory(tree: string, { text, history }: KeptHistory): void {
  try {
    if (history.past.length === 0 && history.future.length === 0) sessionStorage.removeItem(keyOf(tree));
    else sessionStorage.setItem(keyOf(tree), JSON.stringify({ text, ...history }));
  } catch {
    // A browser that has no room for it loses what could be taken back, and nothing else.
  }
}

/** What could be taken back of a tree when this tab had it open last; null for nothing. */
export function keptHistory(tree: string): KeptHistory | null {
  try {
    const { text, past, future } = v.parse(Kept, JSON.parse(sessionStorage.getItem(keyOf(tree)) ?? 'null'));
    return { text, history: { past, future } };
  } catch {
    return null;
  }
}
