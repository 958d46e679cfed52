import { diffArrays } from 'diff';
import { type Match, matchesOf } from './matches.js';

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
  const parts = mergedParts(base.split('\n'), mine.split('\n'), theirs.split('\n'));
  if (parts.some((part) => part.kind === 'clash')) return { kind: 'clashes', parts };
  return { kind: 'merged', text: settled(parts, []) };
}

/**
 * The stretches between the lines that all three have: where one side alone changed it is taken, where both made the same
 * of it once, else it is a clash (“A Formal Investigation of Diff3”, Khanna, Kunal, Pierce, 2007).
 */
function mergedParts(base: readonly string[], mine: readonly string[], theirs: readonly string[]): MergePart[] {
  const parts: (Clash | { readonly kind: 'lines'; readonly lines: string[] })[] = [];
  const lines = (more: readonly string[]) => {
    if (more.length === 0) return;
    const last = parts.at(-1);
    if (last?.kind === 'lines') for (const line of more) last.lines.push(line);
    else parts.push({ kind: 'lines', lines: [...more] });
  };
  const inMine = placesIn(matchesOf(base, mine));
  const inTheirs = placesIn(matchesOf(base, theirs));
  let [atBase, atMine, atTheirs] = [0, 0, 0];
  const settle = (toBase: number, toMine: number, toTheirs: number) => {
    const [was, own, other] = [base.slice(atBase, toBase), mine.slice(atMine, toMine), theirs.slice(atTheirs, toTheirs)];
    if (isSame(own, other) || isSame(was, other)) lines(own);
    else if (isSame(was, own)) lines(other);
    else parts.push({ kind: 'clash', base: was, mine: own, theirs: other });
    [atBase, atMine, atTheirs] = [toBase, toMine, toTheirs];
  };
  let stable: string[] = [];
  for (const [line, text] of base.entries()) {
    const [own, other] = [inMine.get(line), inTheirs.get(line)];
    if (own === undefined || other === undefined || own < atMine || other < atTheirs) continue;
    if (line > atBase || own > atMine || other > atTheirs) {
      lines(stable);
      stable = [];
      settle(line, own, other);
    }
    stable.push(text);
    [atBase, atMine, atTheirs] = [line + 1, own + 1, other + 1];
  }
  lines(stable);
  if (atBase < base.length || atMine < mine.length || atTheirs < theirs.length) settle(base.length, mine.length, theirs.length);
  return parts;
}

function placesIn(matches: readonly Match[]): ReadonlyMap<number, number> {
  return new Map(matches);
}

function isSame(a: readonly string[], b: readonly string[]): boolean {
  return a.length === b.length && a.every((line, index) => line === b[index]);
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
