import { describe, expect, test } from 'vitest';
import { generatedSchema } from '../../../bench/generated-schema.js';
import { readDesign } from '../../../core/design/index.js';
import { mapView, WHOLE_MAP } from '../../../core/view-models/index.js';
import { begun, fitting, steppedZoom } from './place.js';

const pane = { width: 700, height: 600 };
const mapOf = (entities: number) => mapView(readDesign(generatedSchema(entities)), WHOLE_MAP);

describe('where a map is looked at first', () => {
  test('a small one is seen whole, and never larger than life', () => {
    for (const entities of [1, 5, 12]) {
      const map = mapOf(entities);
      const { x, y, zoom } = begun(map, pane, null);
      expect(zoom).toBeLessThanOrEqual(1);
      expect(x).toBeGreaterThanOrEqual(0);
      expect(x + map.layout.width * zoom).toBeLessThanOrEqual(pane.width + 1);
      expect(y + map.layout.height * zoom).toBeLessThanOrEqual(pane.height + 1);
    }
  });

  test('one that could not be read whole is begun at its upper middle', () => {
    const map = mapOf(300);
    const { x, y, zoom } = begun(map, pane, null);
    expect(fitting(map.layout, pane).zoom).toBeLessThan(0.3);
    expect(zoom).toBe(0.55);
    expect(x + (map.layout.width * zoom) / 2).toBeCloseTo(pane.width / 2);
    expect(y).toBe(6);
  });

  test('labels are drawn for steps of size, finer from far', () => {
    expect([0.49, 0.52, 0.53, 1, 1.29, 1.31].map(steppedZoom)).toEqual([0.5, 0.5, 0.55, 1, 1.2, 1.4]);
  });
});
