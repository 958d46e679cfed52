import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { everything } from '../../tests/agreement.js';
import { preparedPlan } from '../../tests/prepared.js';
import { cardsOf } from '../cards/index.js';
import { rowQuestions } from '../checks/index.js';
import { complete } from '../language/index.js';
import { layoutMap, mapOf } from '../map/index.js';
import { planQuery } from '../plan/index.js';
import { profilePlans } from '../profile/index.js';
import { makeSamples } from '../samples/index.js';
import { readDesign } from './index.js';

const TEXTS = ['demo/library.kin', 'tests/forms/forms.kin', 'tests/forms/pairs.kin', 'tests/forms/several.kin'].map((file) =>
  readFileSync(file, 'utf8').split('\n'),
);

/** One slip of a hand: a line lost, doubled, cut off, or taken from elsewhere; a word lost, or one for another. */
const slip = fc.record({
  kind: fc.constantFrom('lose', 'move', 'cut', 'word', 'swap'),
  at: fc.nat(),
  from: fc.nat(),
  word: fc.nat(),
});

const brokenText = fc.tuple(fc.nat(TEXTS.length - 1), fc.array(slip, { minLength: 1, maxLength: 4 })).map(([which, slips]) => {
  const lines = [...(TEXTS[which] ?? [])];
  for (const { kind, at, from, word } of slips) {
    const here = at % lines.length;
    const there = lines[from % lines.length] ?? '';
    const words = (lines[here] ?? '').split(/\b/);
    const spot = word % Math.max(1, words.length);
    if (kind === 'lose') lines.splice(here, 1);
    else if (kind === 'move') lines.splice(here, 0, there);
    else if (kind === 'cut') lines[here] = words.slice(0, spot).join('');
    else if (kind === 'word') lines[here] = words.toSpliced(spot, 1).join('');
    else lines[here] = words.toSpliced(spot, 1, there.split(/\b/)[spot] ?? '').join('');
  }
  return lines.join('\n');
});

test('a text that is broken anywhere is still read, told, drawn, filled and asked, as far as it stands', () => {
  let entities = 0;
  fc.assert(
    fc.property(brokenText, fc.constantFrom('sqlite' as const, 'postgres' as const, 'mariadb' as const), (text, dialect) => {
      const design = readDesign(text, dialect);
      const { model } = design;
      entities += model.entities.size;
      expect(cardsOf(design).length).toBe(model.entities.size + model.relations.size);
      const { labels, stems } = mapOf(model);
      layoutMap(labels, stems);
      rowQuestions(model, { dialect: design.dialect, text });
      for (const relation of model.relations.values()) profilePlans(model, relation);
      makeSamples(model, '2031-04-12T09:00:00.000000Z');
      for (const asked of everything({ design })) {
        const { query } = design.queryOf(asked);
        if (query !== null) preparedPlan(design, planQuery(model, query));
      }
      complete(design, text, Math.floor(text.length / 2));
    }),
    { numRuns: 60, seed: 3 },
  );
  expect(entities).toBeGreaterThan(500);
}, 600_000);
