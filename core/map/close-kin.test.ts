import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { generatedSchema } from '../../bench/generated-schema.js';
import { arbitraryTree } from '../../tests/arbitrary-tree.js';
import { readDesign } from '../design/index.js';
import { type CloseKin, closeKinMap, type KinMap, mapOf } from './index.js';

const ALONE = { opened: [], whole: [] };

function kinOf(text: string, kin: CloseKin): KinMap {
  return closeKinMap(mapOf(readDesign(text).model), kin);
}

const shown = ({ layout }: KinMap, step: number, middle: number) =>
  layout.labels.flatMap(({ id, kind, generation }) => (kind === 'entity' && generation === middle + step ? [id] : [])).sort();

describe('close kin', () => {
  const library = readFileSync('demo/library.kin', 'utf8');

  test('stand above, below and beside the one that is selected, by what they are to it', () => {
    const player = kinOf(library, { centres: ['Player'], ...ALONE });
    expect(shown(player, -1, player.middle)).toEqual(['Branch']);
    expect(shown(player, 0, player.middle)).toEqual(['Ensemble', 'Player']);
    expect(shown(player, 1, player.middle)).toContain('Loan');
    const row = player.layout.labels.filter(({ id }) => id === 'Player' || id === 'Ensemble');
    expect(new Set(row.map(({ y }) => y)).size).toBe(1);
    expect(player.layout.labels.map(({ id }) => id)).toContain('pivot seating');
  });

  test('a kind stands below its base, and what a role to several points at above its knot', () => {
    const remark = kinOf(library, { centres: ['Remark'], ...ALONE });
    expect(shown(remark, -1, remark.middle)).toEqual(expect.arrayContaining(['Ensemble', 'Instrument']));
    expect(remark.layout.labels.map(({ id }) => id)).toContain('knot remark_subject');
    const instrument = kinOf(library, { centres: ['Instrument'], ...ALONE });
    expect(shown(instrument, 1, instrument.middle)).toContain('StringInstrument');
    // A target is no kin of the other targets.
    expect(instrument.layout.labels.map(({ id }) => id)).not.toContain('Hall');
  });

  test('what is opened brings its own kin, step by step, to the last of them', () => {
    const wide = generatedSchema(173);
    const alone = kinOf(wide, { centres: ['E0'], ...ALONE });
    const [child = ''] = shown(alone, 1, alone.middle);
    expect(shown(alone, 1, alone.middle)).toHaveLength(12);
    expect(alone.further.get('E0')).toBeGreaterThan(10);
    const all = kinOf(wide, { centres: ['E0'], opened: [], whole: ['E0'] });
    expect(all.further.has('E0')).toBe(false);
    const step = kinOf(wide, { centres: ['E0'], opened: [child], whole: [child] });
    expect(step.further.has(child)).toBe(false);
    expect(step.layout.labels.length).toBeGreaterThan(alone.layout.labels.length);
  });

  test('of a relation all its entities are in the middle', () => {
    const borrowing = kinOf(library, { centres: ['Loan', 'Player'], ...ALONE });
    expect(shown(borrowing, 0, borrowing.middle)).toContain('Loan');
    expect(shown(borrowing, -1, borrowing.middle)).toContain('Player');
    expect(shown(borrowing, -2, borrowing.middle)).toContain('Branch');
  });

  test('in any tree no label covers another, each that is shown has a stem, and what is left out is counted', () => {
    fc.assert(
      fc.property(arbitraryTree, fc.nat(), fc.nat(), (text, first, second) => {
        const map = mapOf(readDesign(text).model);
        const names = map.entities.map(({ id }) => id);
        const [centre = '', opened = ''] = [names[first % names.length], names[second % names.length]];
        const { layout, further } = closeKinMap(map, { centres: [centre], opened: [opened], whole: [] });
        for (const label of layout.labels) {
          const reached = layout.stems.some(({ from, to }) => from === label.id || to === label.id);
          expect(reached || label.id === centre, label.id).toBe(true);
          for (const other of layout.labels) {
            const apart =
              label === other ||
              label.x + label.width <= other.x ||
              other.x + other.width <= label.x ||
              label.y + label.height <= other.y ||
              other.y + other.height <= label.y;
            expect(apart, `${label.id} and ${other.id}`).toBe(true);
          }
        }
        const known = new Set(layout.labels.map(({ id }) => id));
        for (const name of further.keys()) expect(known.has(name)).toBe(true);
        expect(layout.stems.every(({ points }) => points.length >= 2)).toBe(true);
      }),
      { numRuns: 200, seed: 4 },
    );
  });
});
