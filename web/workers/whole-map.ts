import type { Asks } from './asks.js';

/** The question for the map that a tree is opened with. */
export function wholeMapOf(text: string): Asks['map'][0] {
  return { text, options: { lines: 'keys', folded: [] }, kin: null };
}
