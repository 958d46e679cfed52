/** Letters of a text: a letter beyond the first 65,536 counts once. */
export function lettersOf(text: string): string[] {
  return Array.from(text);
}

/** Of the letters of ASCII the small ones, or the capitals; all others stay as they are. */
export function folded(text: string, to: 'lower' | 'upper'): string {
  return to === 'lower'
    ? text.replace(/[A-Z]/g, (letter) => letter.toLowerCase())
    : text.replace(/[a-z]/g, (letter) => letter.toUpperCase());
}

/** Some letters of a text from a place, the first of which is 1; a place below zero counts from the end. */
export function lettersFrom(text: string, start: number, count: number | null): string {
  const letters = lettersOf(text);
  const from = start > 0 ? start - 1 : start === 0 ? -1 : letters.length + start;
  const to = count === null ? letters.length : from + count;
  return letters.slice(Math.max(0, from), Math.max(0, to)).join('');
}

/** Whether a text is like a pattern: `%` is any letters, `_` one, and a backslash makes the next letter mean itself. */
export function isLike(text: string, pattern: string): boolean {
  const parts: string[] = [];
  const letters = lettersOf(pattern);
  for (let at = 0; at < letters.length; at++) {
    const letter = letters[at] ?? '';
    if (letter === '%') parts.push('[\\s\\S]*');
    else if (letter === '_') parts.push('[\\s\\S]');
    else {
      const meant = letter === '\\' && at + 1 < letters.length ? letters[++at] : letter;
      parts.push((meant ?? '').replace(/[\\^$.*+?()[\]{}|/-]/g, '\\$&'));
    }
  }
  return new RegExp(`^${parts.join('')}$`, 'u').test(text);
}
