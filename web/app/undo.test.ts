import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { carried, NO_HISTORY, redo, remembered, type TextHistory, undo } from './undo.js';

/** Types texts one after the other, a while apart unless said otherwise. */
function typed(texts: readonly string[], gap = 5000): TextHistory {
  return texts
    .slice(1)
    .reduce((history, text, index) => remembered(history, texts[index] ?? '', text, index * gap, null), NO_HISTORY);
}

describe('taking back', () => {
  test('leads through every text that was, and forth again', () => {
    fc.assert(
      fc.property(fc.array(fc.string({ maxLength: 12 }), { minLength: 1, maxLength: 12 }), (texts) => {
        const changed = texts.filter((text, index) => index === 0 || text !== texts[index - 1]);
        let history = typed(changed);
        let text = changed.at(-1) ?? '';
        for (const expected of changed.slice(0, -1).reverse()) {
          const back = undo(history, text);
          expect(back?.text).toBe(expected);
          if (back === null) return;
          ({ text, history } = back);
        }
        expect(undo(history, text)).toBeNull();
        for (const expected of changed.slice(1)) {
          const forth = redo(history, text);
          expect(forth?.text).toBe(expected);
          if (forth === null) return;
          ({ text, history } = forth);
        }
      }),
    );
  });

  test('takes a word that was typed in one go back at once', () => {
    const history = typed(['', 'a', 'ab', 'abc'], 100);
    expect(history.past.length).toBe(1);
    expect(undo(history, 'abc')?.text).toBe('');
  });

  test('takes letters that were deleted in one go back at once', () => {
    const history = typed(['abc', 'ab', 'a'], 100);
    expect(undo(history, 'a')?.text).toBe('abc');
  });

  test('keeps what a click did apart from typing', () => {
    const first = remembered(NO_HISTORY, 'a', 'ab', 0, null);
    const clicked = remembered(first, 'ab', 'ab\nfield', 10, 'add a field');
    expect(undo(clicked, 'ab\nfield')?.text).toBe('ab');
  });

  test('forgets what was taken back once something else is written', () => {
    const back = undo(typed(['a', 'ab']), 'ab');
    if (back === null) throw new Error('nothing to take back');
    expect(redo(remembered(back.history, 'a', 'ax', 9999, null), 'ax')).toBeNull();
  });
});

describe('the history of a text that others changed too', () => {
  const base = Array.from({ length: 12 }, (_, index) => `line ${index}`);
  const own = fc.array(fc.tuple(fc.nat(5), fc.stringMatching(/^[xyz]{1,3}$/)), { minLength: 1, maxLength: 6 });
  const others = fc.uniqueArray(fc.tuple(fc.nat(5), fc.constantFrom('changed', 'removed', 'a line before')), {
    minLength: 1,
    maxLength: 5,
    selector: ([line]) => line,
  });
  // One's own words stand in the even lines, what others change in the odd ones.
  const byOthers = (lines: readonly string[], changes: readonly (readonly [number, string])[]) =>
    lines
      .flatMap((line, index) => {
        const [, change] = changes.find(([odd]) => odd * 2 + 1 === index) ?? [];
        if (change === undefined) return [line];
        return change === 'removed' ? [] : change === 'changed' ? [`${line}, theirs`] : ['theirs', line];
      })
      .join('\n');

  test('leads back to what others have and oneself had, and forth again', () => {
    fc.assert(
      fc.property(own, others, fc.nat(6), (words, changes, back) => {
        let lines = [...base];
        const texts = [base.join('\n')];
        for (const [even, word] of words) {
          lines = lines.map((line, index) => (index === even * 2 ? line + word : line));
          texts.push(lines.join('\n'));
        }
        let history = typed(texts);
        let text = texts.at(-1) ?? '';
        const steps = Math.min(back, words.length);
        for (let step = 0; step < steps; step++) {
          const undone = undo(history, text);
          if (undone === null) throw new Error('a step is missing');
          ({ text, history } = undone);
        }
        const theirs = byOthers(text.split('\n'), changes);
        history = carried(history, text, theirs);
        text = theirs;
        for (let next = undo(history, text); next !== null; next = undo(history, text)) ({ text, history } = next);
        expect(text).toBe(byOthers(base, changes));
        for (let next = redo(history, text); next !== null; next = redo(history, text)) ({ text, history } = next);
        expect(text).toBe(byOthers(lines, changes));
      }),
    );
  });

  test('ends where others changed one’s own words', () => {
    const history = typed(['a\nb', 'a\nbc', 'ax\nbc']);
    const after = carried(history, 'ax\nbc', 'ax\nBC');
    expect(undo(after, 'ax\nBC')?.text).toBe('a\nBC');
    expect(after.past).toHaveLength(1);
  });
});
