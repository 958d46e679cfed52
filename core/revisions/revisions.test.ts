import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { addedLines, changedLines, lineParts, merge, settled } from './index.js';

const BASE = 'a\nb\nc\nd\ne\n';

describe('merging two versions', () => {
  test('takes both changes where they stand apart', () => {
    expect(merge(BASE, 'a\nB\nc\nd\ne\n', 'a\nb\nc\nd\nE\nf\n')).toEqual({ kind: 'merged', text: 'a\nB\nc\nd\nE\nf\n' });
  });

  test('asks where both changed the same lines, and keeps the rest of both', () => {
    const outcome = merge(BASE, 'x\na\nb\nmine\nd\ne\n', 'a\nb\ntheirs\nd\ne\ny\n');
    if (outcome.kind !== 'clashes') throw new Error('no clash');
    expect(outcome.parts.filter((part) => part.kind === 'clash')).toEqual([
      { kind: 'clash', base: ['c'], mine: ['mine'], theirs: ['theirs'] },
    ]);
    expect(settled(outcome.parts, ['mine'])).toBe('x\na\nb\nmine\nd\ne\ny\n');
    expect(settled(outcome.parts, ['theirs'])).toBe('x\na\nb\ntheirs\nd\ne\ny\n');
    expect(settled(outcome.parts, ['both'])).toBe('x\na\nb\nmine\ntheirs\nd\ne\ny\n');
  });

  test('the same change on both sides is no clash', () => {
    expect(merge(BASE, 'a\nX\nc\nd\ne\n', 'a\nX\nc\nd\ne\n')).toEqual({ kind: 'merged', text: 'a\nX\nc\nd\ne\n' });
  });

  const text = fc.array(fc.constantFrom('a', 'b', 'c', ''), { maxLength: 8 }).map((lines) => lines.join('\n'));

  test('a side that did not change gives way to the other, whatever it is', () => {
    fc.assert(
      fc.property(text, text, (base, other) => {
        expect(merge(base, base, other)).toEqual({ kind: 'merged', text: other });
        expect(merge(base, other, base)).toEqual({ kind: 'merged', text: other });
      }),
    );
  });

  test('every line of either side can be had', () => {
    fc.assert(
      fc.property(text, text, text, (base, mine, theirs) => {
        const outcome = merge(base, mine, theirs);
        if (outcome.kind === 'merged') return;
        const all = settled(
          outcome.parts,
          outcome.parts.filter((part) => part.kind === 'clash').map(() => 'both'),
        );
        for (const line of [...mine.split('\n'), ...theirs.split('\n')]) {
          if (!base.split('\n').includes(line)) expect(all.split('\n')).toContain(line);
        }
      }),
    );
  });
});

describe('merging long texts', () => {
  const lines = Array.from({ length: 4000 }, (_, index) => (index % 2 === 0 ? '' : `line ${index}`));

  test('of which most lines are blank takes both sides', () => {
    const mine = lines.map((line, index) => (index % 400 === 1 ? `${line} mine` : line));
    const theirs = lines.flatMap((line, index) => (index % 400 === 201 ? [line, '', 'theirs', ''] : [line]));
    const both = mine.flatMap((line, index) => (index % 400 === 201 ? [line, '', 'theirs', ''] : [line]));
    expect(merge(lines.join('\n'), mine.join('\n'), theirs.join('\n'))).toEqual({ kind: 'merged', text: both.join('\n') });
  });

  test('of which no line is like another but all are blank ends', () => {
    const blank = (count: number) => '\n'.repeat(count);
    expect(merge(`a${blank(50_000)}b`, `c${blank(50_001)}d`, `e${blank(49_999)}f`).kind).toBe('clashes');
    const { added, removed } = changedLines(`a${blank(50_000)}b`, `c${blank(50_001)}d`);
    expect([added - removed, removed >= 2]).toEqual([1, true]);
  });

  test('changes that stand apart are all in what comes of them', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.nat({ max: 99 }), { minLength: 2, maxLength: 12 }), (places) => {
        const base = Array.from({ length: 300 }, (_, index) => `${index % 3 === 0 ? index : ''}`);
        const [mine, theirs] = [0, 1].map((side) =>
          base.map((line, index) =>
            places.some((place, turn) => turn % 2 === side && place * 3 === index) ? `${line} of ${side}` : line,
          ),
        );
        const both = base.map((line, index) => [mine?.[index], theirs?.[index]].find((other) => other !== line) ?? line);
        const merged = merge(base.join('\n'), mine?.join('\n') ?? '', theirs?.join('\n') ?? '');
        expect(merged).toEqual({ kind: 'merged', text: both.join('\n') });
      }),
    );
  });
});

describe('what changed', () => {
  test('is told in runs of lines', () => {
    expect(lineParts('a\nb\nc\n', 'a\nx\nc\nd\n')).toEqual([
      { kind: 'same', lines: ['a'] },
      { kind: 'removed', lines: ['b'] },
      { kind: 'added', lines: ['x'] },
      { kind: 'same', lines: ['c'] },
      { kind: 'added', lines: ['d'] },
    ]);
    expect(changedLines('a\nb\nc\n', 'a\nx\nc\nd\n')).toEqual({ added: 2, removed: 1 });
  });

  test('names the lines that are new, a comma at the end or a blank line aside', () => {
    expect(addedLines('select a\nfrom t', 'select a\nfrom t\nwhere b')).toEqual([2]);
    expect(addedLines('(\n  a\n)', '(\n  a,\n\n  b\n)')).toEqual([3]);
    expect(addedLines('select a\nfrom t\nwhere b', 'select a\nfrom t')).toEqual([]);
  });
});
