import { matchesOf } from './matches.js';

/** A run of lines that both texts have, or only the earlier, or only the later. */
export interface LinePart {
  readonly kind: 'same' | 'removed' | 'added';
  readonly lines: readonly string[];
}

/** The difference of two texts, as runs of lines in order. */
export function lineParts(before: string, after: string): LinePart[] {
  const [old, fresh] = [linesOf(before), linesOf(after)];
  const parts: { kind: LinePart['kind']; lines: string[] }[] = [];
  const add = (kind: LinePart['kind'], lines: readonly string[]) => {
    if (lines.length === 0) return;
    const last = parts.at(-1);
    if (last?.kind === kind) for (const line of lines) last.lines.push(line);
    else parts.push({ kind, lines: [...lines] });
  };
  let [atOld, atFresh] = [0, 0];
  for (const [inOld, inFresh] of [...matchesOf(old, fresh), [old.length, fresh.length] as const]) {
    add('removed', old.slice(atOld, inOld));
    add('added', fresh.slice(atFresh, inFresh));
    if (inOld < old.length) add('same', [old[inOld] ?? '']);
    [atOld, atFresh] = [inOld + 1, inFresh + 1];
  }
  return parts;
}

/** How many lines came and went. */
export function changedLines(before: string, after: string): { readonly added: number; readonly removed: number } {
  const [old, fresh] = [linesOf(before), linesOf(after)];
  const same = matchesOf(old, fresh).length;
  return { added: fresh.length - same, removed: old.length - same };
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

function linesOf(text: string): string[] {
  const lines = text.split('\n');
  if (lines.at(-1) === '') lines.pop();
  return lines;
}
