import { diffLines } from 'diff';

/** A run of lines that both texts have, or only the earlier, or only the later. */
export interface LinePart {
  readonly kind: 'same' | 'removed' | 'added';
  readonly lines: readonly string[];
}

/** What changed from one text to another, as runs of lines in order. */
export function lineParts(before: string, after: string): LinePart[] {
  // A last line without its break is the same line as one with it.
  return diffLines(ended(before), ended(after)).map((change) => ({
    kind: change.added ? 'added' : change.removed ? 'removed' : 'same',
    lines: linesOf(change.value),
  }));
}

/** How many lines came and went. */
export function changedLines(before: string, after: string): { readonly added: number; readonly removed: number } {
  const [old, fresh] = middles(linesOf(before), linesOf(after));
  if (old.length + fresh.length > MOST_COMPARED) return { added: fresh.length, removed: old.length };
  const parts = lineParts(old.map((line) => `${line}\n`).join(''), fresh.map((line) => `${line}\n`).join(''));
  const count = (kind: LinePart['kind']) => parts.reduce((sum, part) => sum + (part.kind === kind ? part.lines.length : 0), 0);
  return { added: count('added'), removed: count('removed') };
}

/**
 * The lines of a later text, from 0, that an earlier one has not. A comma at the end makes no other line: in a list the last
 * goes without. Blank lines are not counted.
 */
export function addedLines(before: string, after: string): number[] {
  const plain = (text: string) => text.replace(/,$/gm, '');
  let at = 0;
  return lineParts(plain(before), plain(after)).flatMap(({ kind, lines }) => {
    const start = at;
    if (kind !== 'removed') at += lines.length;
    return kind === 'added' ? lines.flatMap((line, index) => (line === '' ? [] : [start + index])) : [];
  });
}

const MOST_COMPARED = 4000;

/** What is left of two texts without the lines that both begin and end with. */
function middles(before: readonly string[], after: readonly string[]): [readonly string[], readonly string[]] {
  let start = 0;
  while (start < before.length && start < after.length && before[start] === after[start]) start += 1;
  let end = 0;
  while (
    end < before.length - start &&
    end < after.length - start &&
    before[before.length - 1 - end] === after[after.length - 1 - end]
  )
    end += 1;
  return [before.slice(start, before.length - end), after.slice(start, after.length - end)];
}

function ended(text: string): string {
  return text === '' || text.endsWith('\n') ? text : `${text}\n`;
}

function linesOf(text: string): string[] {
  const lines = text.split('\n');
  if (lines.at(-1) === '') lines.pop();
  return lines;
}
