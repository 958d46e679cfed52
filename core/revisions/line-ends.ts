import { matchesOf } from './matches.js';

const ENDED_LINE = /([^\r\n]*)(\r\n|\r|\n)/g;

/** A text whose lines all end in a line feed, as texts are held here. */
export function withLineFeeds(text: string): string {
  return text.includes('\r') ? text.replace(/\r\n?/g, '\n') : text;
}

/**
 * A text as it is written over another: lines that both have end as they did there, further ones as most lines there do.
 *
 * @param text its lines end in a line feed
 * @param there what stands in the file now, with its own line ends
 */
export function withLineEndsOf(text: string, there: string): string {
  if (!there.includes('\r')) return text;
  const old = Array.from(there.matchAll(ENDED_LINE), ([, words = '', end = '\n']) => ({ words, end }));
  const most = mostOf(old.map(({ end }) => end));
  const lines = text.split('\n');
  const last = lines.pop() ?? '';
  const ends = lines.map(() => most);
  if (old.some(({ end }) => end !== most))
    for (const [inOld, inText] of matchesOf(
      old.map(({ words }) => words),
      lines,
    ))
      ends[inText] = old[inOld]?.end ?? most;
  // A lone carriage return before an empty line that ends in a line feed would be one line end with it. What is changed for that
  // is such a line feed itself, so the last come first.
  for (let index = ends.length - 2; index >= 0; index--)
    if (ends[index] === '\r' && lines[index + 1] === '' && ends[index + 1] === '\n') ends[index] = '\n';
  return lines.map((line, index) => line + ends[index]).join('') + last;
}

function mostOf(ends: readonly string[]): string {
  const counts = new Map<string, number>();
  for (const end of ends) counts.set(end, (counts.get(end) ?? 0) + 1);
  return [...counts].sort(([, one], [, other]) => other - one)[0]?.[0] ?? '\n';
}
