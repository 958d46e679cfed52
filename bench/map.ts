import { readDesign } from '../core/design/index.js';
import { layoutMap, type MapLayout, mapOf } from '../core/map/index.js';
import { generatedSchema } from './generated-schema.js';
import { medians } from './measure.js';

/** Laying out maps: how it grows, and what it costs against reading the text. */
export function benchMap(): string[] {
  const sizes = [50, 300, 1000] as const;
  const lines = sizes.map((entities) => {
    const text = generatedSchema(entities);
    const { model } = readDesign(text);
    const lay = (): MapLayout => {
      const { labels, stems } = mapOf(model);
      return layoutMap(labels, stems);
    };
    const { laid, read } = medians({ laid: lay, read: () => readDesign(text) }, 5);
    const { width, height, stems } = lay();
    const drawn = stems.filter((stem) => !stem.short).length;
    return `a map of ${entities} entities: ${(laid / read).toFixed(2)} × reading its text (${laid.toFixed(0)} ms); ${Math.round(width)} × ${Math.round(height)} px, ${drawn} of ${stems.length} stems drawn whole`;
  });
  const of = (entities: number) => {
    const { model } = readDesign(generatedSchema(entities));
    return () => {
      const { labels, stems } = mapOf(model);
      return layoutMap(labels, stems);
    };
  };
  const growth = medians({ small: of(100), large: of(1000) }, 9);
  lines.push(
    `map layout from 100 to 1,000 entities: ${(growth.large / growth.small / 10).toFixed(2)} × the growth of the tree (1.00 is linear)`,
  );
  return lines;
}
