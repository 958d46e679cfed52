import type { Cut } from '../load/index.js';

/** How long an answer may be, as text: what a page can hold, and a server can pass on without holding others up. */
export const LONGEST_ANSWER = 16 * 1024 * 1024;

/** Rows as one JSON array that is no longer than an answer may be; where it would be, the rows that fit, and a cut that says so. */
export function answerText(rows: readonly unknown[]): { readonly text: string; readonly rows: number; readonly cut: Cut | null } {
  const parts: string[] = [];
  let length = 2;
  for (const row of rows) {
    const part = JSON.stringify(row);
    length += part.length + 1;
    if (length > LONGEST_ANSWER)
      return { text: `[${parts.join(',')}]`, rows: parts.length, cut: { path: '', limit: parts.length, size: LONGEST_ANSWER } };
    parts.push(part);
  }
  return { text: `[${parts.join(',')}]`, rows: parts.length, cut: null };
}
