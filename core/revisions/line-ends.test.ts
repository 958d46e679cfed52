import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { withLineEndsOf, withLineFeeds } from './index.js';

const mixed = fc
  .array(fc.tuple(fc.stringMatching(/^[a-c ]{0,4}$/), fc.constantFrom('\n', '\r\n', '\r')), { maxLength: 12 })
  .map((lines) => lines.map(([words, end]) => words + end).join(''));

describe('line ends', () => {
  test('a text that nobody changed is written to the letter as it stood', () => {
    fc.assert(
      fc.property(mixed, (there) => {
        expect(withLineEndsOf(withLineFeeds(there), there)).toBe(there);
      }),
    );
  });

  test('what is written reads as the text that was meant', () => {
    fc.assert(
      fc.property(mixed, mixed, (text, there) => {
        const meant = withLineFeeds(text);
        expect(withLineFeeds(withLineEndsOf(meant, there))).toBe(meant);
      }),
    );
  });

  test('empty lines that end in carriage returns do not run into one that ends in a line feed', () => {
    fc.assert(
      fc.property(fc.array(fc.constantFrom('\n', '\r', '\r\n'), { maxLength: 8 }), mixed, (ends, there) => {
        const meant = withLineFeeds(ends.join(''));
        expect(withLineFeeds(withLineEndsOf(meant, there))).toBe(meant);
      }),
      { numRuns: 1000 },
    );
  });

  test('a new line ends as most of the file does, and the others keep their own', () => {
    expect(withLineEndsOf('a\nb\nc\nd\n', 'a\r\nb\nd\r\n')).toBe('a\r\nb\nc\r\nd\r\n');
  });
});
