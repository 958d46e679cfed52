import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { generatedSchema } from '../../bench/generated-schema.js';
import { generatedTree } from '../../bench/generated-tree.js';
import { arbitraryTree } from '../../tests/arbitrary-tree.js';
import { readDesign } from '../design/index.js';
import { layoutMap, type MapLayout, mapOf, nameOnMap } from './index.js';

function layoutOf(text: string): MapLayout {
  const { labels, stems } = mapOf(readDesign(text).model);
  return layoutMap(labels, stems);
}

/** The pairs of a stem and a label that it runs through. */
function crossings({ labels, stems }: MapLayout): string[] {
  return stems.flatMap((stem) =>
    stem.points.slice(1).flatMap((point, index) => {
      const before = stem.points[index] ?? point;
      const [left, right] = [Math.min(before.x, point.x), Math.max(before.x, point.x)];
      const [top, bottom] = [Math.min(before.y, point.y), Math.max(before.y, point.y)];
      return labels
        .filter(
          (label) =>
            left < label.x + label.width - 1 && right > label.x + 1 && top < label.y + label.height - 1 && bottom > label.y + 1,
        )
        .map((label) => `${stem.id} through ${label.id}`);
    }),
  );
}

describe('the map', () => {
  test('an entity stands below all those whose key it holds', () => {
    const { labels } = layoutOf(readFileSync('demo/library.kin', 'utf8'));
    const y = (id: string) => labels.find((label) => label.id === id)?.y ?? 0;
    expect(y('Branch')).toBeLessThan(y('Player'));
    expect(y('Player')).toBeLessThan(y('Loan'));
    expect(y('Instrument')).toBeLessThan(y('Loan'));
    expect(y('pivot seating')).toBeLessThan(y('Player'));
    expect(y('pivot seating')).toBeGreaterThan(y('Ensemble'));
  });

  test('a name longer than any engine has makes no label wider than all others together', () => {
    const long = 'x'.repeat(20_000);
    const { labels, width } = layoutOf(
      `entity A${long}\n  id integer key\n  f${long} text\n\nentity B in t${long}\n  id integer key\n\nrelation r\n  A${long} knows many B as bs\n  B knows many A${long} as as_\n  stored in pairs_${long}\n`,
    );
    expect(labels.map(({ kind }) => kind)).toEqual(['entity', 'entity', 'pivot']);
    for (const label of labels) expect(label.width, label.kind).toBeLessThan(900);
    expect(width).toBeLessThan(3000);
    expect([nameOnMap('a'.repeat(64)), nameOnMap('a'.repeat(65))]).toEqual(['a'.repeat(64), `${'a'.repeat(63)}…`]);
    // No sign is cut in two.
    expect(nameOnMap(`${'a'.repeat(63)}🎻`)).toBe(`${'a'.repeat(63)}…`);
  });

  test('no stem crosses a label, in any tree', () => {
    fc.assert(
      fc.property(arbitraryTree, (text) => {
        expect(crossings(layoutOf(text))).toEqual([]);
      }),
      { numRuns: 300, seed: 5 },
    );
  });

  test('no two labels overlap, and every stem has its place, also where there are many', () => {
    const layout = layoutOf(generatedTree(120, 360));
    expect(crossings(layout)).toEqual([]);
    expect(layout.stems.every((stem) => stem.points.length >= 2)).toBe(true);
    layout.labels.forEach((a, index) => {
      for (const b of layout.labels.slice(index + 1)) {
        const apart = a.x + a.width <= b.x || b.x + b.width <= a.x || a.y + a.height <= b.y || b.y + b.height <= a.y;
        expect(apart, `${a.id} and ${b.id}`).toBe(true);
      }
    });
  });

  test('keys that form a loop are led around, not left out', () => {
    const { stems } = layoutOf(
      'entity A\n  id integer key\n\nentity B\n  id integer key\n\nrelation x\n  A knows one B as b\n\nrelation y\n  B knows at most one A as a\n',
    );
    expect(stems.map((stem) => stem.id).sort()).toEqual(['x', 'y']);
    expect(Math.max(...stems.map((stem) => stem.points.length))).toBeGreaterThanOrEqual(6);
  });

  test('what stands below a folded entity is away, and counted on its label', () => {
    const { model } = readDesign(readFileSync('demo/library.kin', 'utf8'));
    const { entities, stems } = mapOf(model, { folded: ['Player'] });
    const names = entities.map(({ name }) => name);
    expect(names).toContain('Player');
    for (const below of ['Card', 'Loan', 'Reservation', 'Remark']) expect(names).not.toContain(below);
    expect(entities.find(({ name }) => name === 'Player')?.hidden).toBe(5);
    for (const { from, to } of stems) for (const end of [from, to]) expect(end).not.toBe('Loan');
  });

  test('labels show names, keys, or all fields', () => {
    const { model } = readDesign(readFileSync('demo/library.kin', 'utf8'));
    const loan = (lines: 'names' | 'keys' | 'all') => mapOf(model, { lines }).entities.find(({ name }) => name === 'Loan');
    expect(loan('names')?.lines).toEqual([]);
    expect(loan('keys')?.lines.map(({ text }) => text)).toEqual(['id', 'borrower_id', 'instrument_id']);
    expect(loan('keys')?.more.map(({ text }) => text)).toEqual(['lent_on', 'due_on', 'returned_on']);
    expect(loan('all')?.lines.length).toBe(6);
  });

  test('an entity that nearly everything points at does not cover the sheet with its stems', () => {
    const layout = layoutOf(generatedSchema(120));
    const short = layout.stems.filter((stem) => stem.short);
    expect(short.length).toBeGreaterThan(20);
    for (const { points } of short) expect(points.length).toBe(2);
    expect(crossings(layout)).toEqual([]);
  });

  test('maps of 300 entities are about as high as they are wide', () => {
    const { width, height } = layoutOf(generatedSchema(300));
    expect(width / height).toBeGreaterThan(0.5);
    expect(width / height).toBeLessThan(2.5);
  });

  test('the same text gives the same picture', () => {
    const demo = readFileSync('demo/library.kin', 'utf8');
    expect(layoutOf(demo)).toEqual(layoutOf(demo));
  });
});
