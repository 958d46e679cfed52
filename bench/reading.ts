import { readDesign } from '../core/design/index.js';
import { generatedTree } from './generated-tree.js';
import { medians } from './measure.js';
import { modelJson } from './model-json.js';

/** Parse, resolve, check and schema of a whole text, against JSON.parse of the same model; and how it grows. */
export function benchReading(): string[] {
  const lines: string[] = [];
  const text = generatedTree(500, 1500);
  const json = modelJson(readDesign(text).model);
  const { read, parsed } = medians({ read: () => readDesign(text), parsed: () => JSON.parse(json) as unknown }, 9);
  lines.push(
    `reading 500 entities and 1,500 relations (${Math.round(text.length / 1024)} KB of text, ${Math.round(json.length / 1024)} KB of JSON): ${(read / parsed).toFixed(2)} × JSON.parse of the model (${read.toFixed(0)} ms against ${parsed.toFixed(0)} ms)`,
  );
  const small = generatedTree(100, 300);
  const large = generatedTree(1000, 3000);
  const growth = medians({ small: () => readDesign(small), large: () => readDesign(large) }, 7);
  lines.push(
    `growth from 100 to 1,000 entities: ${(growth.large / growth.small / (large.length / small.length)).toFixed(2)} × the growth of the text (1.00 is linear)`,
  );
  return lines;
}
