import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { format } from '../notation/index.js';
import { makeSamples } from '../samples/index.js';
import { readDesign } from './index.js';

/** How many texts are read; more with TEXTS in the environment. */
const TEXTS = Number(process.env.TEXTS ?? 100_000);

const SAMPLES = [
  'demo/library.kin',
  'tests/apiary.kin',
  'tests/notation-sample.kin',
  'tests/forms/forms.kin',
  'tests/forms/several.kin',
];
const blocks = SAMPLES.flatMap((file) =>
  readFileSync(file, 'utf8')
    .split(/\n(?=\S)/)
    .map((block) => `${block}\n`),
);
const lines = blocks.flatMap((block) => block.split('\n'));
const words = Array.from(new Set(lines.flatMap((line) => line.split(/(\s+|[^\w])/).filter((word) => word.trim() !== ''))));

const word = fc.constantFrom(
  ...words,
  "'",
  '"',
  '(',
  ')',
  '((',
  '[',
  ']',
  '\t',
  '999999999999999999999',
  '-1',
  '0',
  '‮',
  'ß',
  '\u00a0',
  '--',
  'x'.repeat(300),
);
const line = fc.oneof(
  { arbitrary: fc.constantFrom(...lines), weight: 6 },
  { arbitrary: fc.array(word, { maxLength: 9 }).map((all) => `  ${all.join(' ')}`), weight: 3 },
  {
    arbitrary: fc
      .tuple(fc.constantFrom(...lines), word, fc.nat({ max: 60 }))
      .map(([own, other, at]) => own.slice(0, at) + other + own.slice(at)),
    weight: 3,
  },
  { arbitrary: fc.string({ unit: 'grapheme', maxLength: 20 }), weight: 1 },
);
const block = fc.oneof(
  { arbitrary: fc.constantFrom(...blocks), weight: 3 },
  { arbitrary: fc.tuple(fc.constantFrom(...blocks), line).map(([own, other]) => `${own.split('\n')[0]}\n${other}\n`), weight: 3 },
  { arbitrary: line, weight: 1 },
);
const text = fc.array(block, { minLength: 1, maxLength: 4 }).map((all) => all.join('\n'));

test('whatever a text holds, it is read, and its findings have places in it', () => {
  fc.assert(
    fc.property(text, fc.nat({ max: 50 }), (written, turn) => {
      const design = readDesign(written, turn === 0 ? 'postgres' : turn === 1 ? 'mariadb' : null);
      for (const { span } of design.findings) {
        expect(span.start).toBeGreaterThanOrEqual(0);
        expect(span.end).toBeLessThanOrEqual(written.length);
      }
      if (turn > 3) return;
      // What is dearer is done for some: each text has one form, rows, and tables.
      expect(format(format(written))).toBe(format(written));
      makeSamples(design.model, '2031-04-12T09:00:00.000000Z');
      design.dialect.createStatements(design.schema);
    }),
    { numRuns: TEXTS, seed: 23 },
  );
}, 1_800_000);
