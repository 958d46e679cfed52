/**
 * The candidate closest to a misspelt word, or null when none is close enough to be meant. Close is at most
 * a third of the letters wrong (and at least one allowed), by edits with neighbours swapped counted once.
 */
export function nearest(word: string, candidates: Iterable<string>): string | null {
  if (word.length > LONGEST_WORD) return null;
  const lower = word.toLowerCase();
  let best: string | null = null;
  let bestDistance = Math.max(1, Math.floor(word.length / 3)) + 1;
  for (const candidate of candidates) {
    if (Math.abs(candidate.length - word.length) >= bestDistance) continue;
    const distance = editDistance(lower, candidate.toLowerCase());
    if (distance < bestDistance) {
      best = candidate;
      bestDistance = distance;
    }
  }
  return best;
}

/** Nobody misspells a longer word by a letter and means it. */
const LONGEST_WORD = 80;

/** The words that complete "did you mean"; empty when nothing is near. */
export function didYouMean(word: string, candidates: Iterable<string>): string {
  const near = nearest(word, candidates);
  return near === null ? '' : ` Did you mean ${near}?`;
}

function editDistance(a: string, b: string): number {
  let beforeLast: number[] = [];
  let last = Array.from({ length: b.length + 1 }, (_, index) => index);
  for (let i = 1; i <= a.length; i++) {
    const row = [i];
    for (let j = 1; j <= b.length; j++) {
      const same = a[i - 1] === b[j - 1];
      let cost = Math.min((last[j] ?? 0) + 1, (row[j - 1] ?? 0) + 1, (last[j - 1] ?? 0) + (same ? 0 : 1));
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) {
        cost = Math.min(cost, (beforeLast[j - 2] ?? 0) + 1);
      }
      row.push(cost);
    }
    beforeLast = last;
    last = row;
  }
  return last[b.length] ?? 0;
}
