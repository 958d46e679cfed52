import { diffArrays } from 'diff';
import { diff3Merge } from 'node-diff3';

/** A stretch that both sides changed, each in its own way. */
export interface Clash {
  readonly kind: 'clash';
  readonly base: readonly string[];
  readonly mine: readonly string[];
  readonly theirs: readonly string[];
}

export type MergePart = Clash | { readonly kind: 'lines'; readonly lines: readonly string[] };

/** Two versions brought into one, or the stretches where a person has to choose. */
export type Merge =
  | { readonly kind: 'merged'; readonly text: string }
  | { readonly kind: 'clashes'; readonly parts: readonly MergePart[] };

/** Merges two versions of a text line by line, given the one that both began from. */
export function merge(base: string, mine: string, theirs: string): Merge {
  if (mine === theirs || theirs === base) return { kind: 'merged', text: mine };
  if (mine === base) return { kind: 'merged', text: theirs };
  const regions = diff3Merge(mine.split('\n'), base.split('\n'), theirs.split('\n'), { excludeFalseConflicts: true });
  const parts = regions.map(
    (region): MergePart =>
      region.conflict === undefined
        ? { kind: 'lines', lines: region.ok ?? [] }
        : { kind: 'clash', base: region.conflict.o, mine: region.conflict.a, theirs: region.conflict.b },
  );
  if (parts.some((part) => part.kind === 'clash')) return { kind: 'clashes', parts };
  return { kind: 'merged', text: settled(parts, []) };
}

export type Choice = 'mine' | 'theirs' | 'both';

/** The text that comes of clashes once each is chosen for; mine where nothing is chosen yet. */
export function settled(parts: readonly MergePart[], choices: readonly (Choice | undefined)[]): string {
  let at = 0;
  return parts
    .flatMap((part) => {
      if (part.kind === 'lines') return part.lines;
      const choice = choices[at] ?? 'mine';
      at += 1;
      return choice === 'mine' ? part.mine : choice === 'theirs' ? part.theirs : [...part.mine, ...part.theirs];
    })
    .join('\n');
}

/**
 * Brings what changed from `base` to `theirs` over to `mine`, word by word; null where mine changed the same words.
 * Words that stand beside each other may each be changed by another side.
 */
export function mergeWords(base: readonly string[], mine: readonly string[], theirs: readonly string[]): string[] | null {
  const kept = keptWords(base, mine);
  const result: (readonly string[])[] = mine.map((word) => [word]);
  const before: string[][] = Array.from({ length: mine.length + 1 }, () => []);
  let at = 0;
  let removed: number[] = [];
  for (const part of diffArrays([...base], [...theirs])) {
    if (part.removed === true) {
      removed = part.value.map((_, index) => at + index);
      at += part.value.length;
      for (const index of removed) {
        const place = kept[index];
        if (place === undefined) return null;
        result[place] = [];
      }
    } else if (part.added === true) {
      const first = removed[0];
      const place = first === undefined ? (kept[at - 1] ?? -1) + 1 : (kept[first] ?? 0);
      if (at > 0 && first === undefined && kept[at - 1] === undefined) return null;
      before[place]?.push(...part.value);
      removed = [];
    } else {
      at += part.value.length;
      removed = [];
    }
  }
  return [...result.flatMap((words, index) => [...(before[index] ?? []), ...words]), ...(before[mine.length] ?? [])];
}

/** For each word of one list, where the other has kept it. */
function keptWords(base: readonly string[], mine: readonly string[]): (number | undefined)[] {
  const places: (number | undefined)[] = [];
  let at = 0;
  for (const part of diffArrays([...base], [...mine])) {
    if (part.removed === true) places.push(...part.value.map(() => undefined));
    else {
      if (part.added !== true) places.push(...part.value.map((_, index) => at + index));
      at += part.value.length;
    }
  }
  return places;
}
