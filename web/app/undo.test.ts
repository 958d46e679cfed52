import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { NO_HISTORY, redo, remembered, type TextHistory, undo } from './undo.js';

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
