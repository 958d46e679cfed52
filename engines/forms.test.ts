import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, inject, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import { agree, type Compared, everything } from '../tests/agreement.js';
import { type Engines, openEngines } from '../tests/engines.js';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

const read = (name: string) => readFileSync(new URL(`../tests/${name}`, import.meta.url), 'utf8');

describe('a text with every form of relation and every way to store kinds', () => {
  test.each(['forms/forms.kin', 'apiary.kin'])(
    '%s is made, filled and loaded on all engines with one answer',
    async (name) => {
      const text = read(name);
      const design = readDesign(text);
      expect(design.findings.filter(({ weight }) => weight === 'error')).toEqual([]);
      const compared: Compared = { answers: 0, values: 0 };
      await agree(engines, text, everything({ design }), compared);
      expect(compared.answers).toBeGreaterThan(400);
    },
    240_000,
  );
});
