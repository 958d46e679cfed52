import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readDesign } from '../core/design/index.js';
import { merge } from '../core/revisions/index.js';
import { dialectOfScript } from '../core/sql/index.js';
import { serve } from '../server/index.js';
import { generatedTree } from './generated-tree.js';
import { HOSTILE_TEXTS } from './hostile-texts.js';
import { medians } from './measure.js';

/** Two versions of a text in which every second line is blank, both changed all over. */
const BLANKS = Array.from({ length: 4000 }, (_, index) => (index % 2 === 0 ? '' : `line ${index}`));
const MERGED = [
  BLANKS.join('\n'),
  BLANKS.map((line, index) => (index % 20 === 1 ? `${line} mine` : line)).join('\n'),
  BLANKS.flatMap((line, index) => (index % 20 === 11 ? [line, 'theirs', ''] : [line])).join('\n'),
] as const;

/** How long after it was asked the server answered, while something goes on. */
async function worstAnswer(base: string, going: () => boolean): Promise<number> {
  let worst = 0;
  while (going()) {
    const started = performance.now();
    await fetch(`${base}api/trees/none`).then((answer) => answer.arrayBuffer());
    worst = Math.max(worst, performance.now() - started);
    await new Promise((done) => setTimeout(done, 5));
  }
  return worst;
}

/** Hostile texts against an honest one: how long each takes to read, and how long others wait for the server meanwhile. */
export async function benchHostile(): Promise<string[]> {
  const lines: string[] = [];
  const honest = generatedTree(500, 1500);
  const merged = medians({ merge: () => merge(...MERGED), read: () => readDesign(honest) }, 5);
  lines.push(
    `merging 4,000 lines of which every second is blank: ${(merged.merge / merged.read).toFixed(2)} × reading 500 entities`,
  );
  const blank = '\n'.repeat(60_000);
  const script = medians({ told: () => dialectOfScript(blank), read: () => readDesign(honest) }, 5);
  lines.push(`telling what 60,000 blank lines were written for: ${(script.told / script.read).toFixed(2)} × the same`);

  const data = mkdtempSync(join(tmpdir(), 'family-tree-bench-'));
  const serving = await serve({ data, host: '127.0.0.1', port: 0, token: null, uploadLimit: 1e6, quiet: true });
  const base = `http://127.0.0.1:${serving.port}/`;
  const idle = await worstAnswer(
    base,
    (
      (end) => () =>
        performance.now() < end
    )(performance.now() + 3000),
  );
  let worstOfAll = 0;
  for (const [name, text] of Object.entries(HOSTILE_TEXTS)) {
    const { hostile, plain } = medians({ hostile: () => readDesign(text), plain: () => readDesign(honest) }, 1);
    let going = true;
    const waited = worstAnswer(base, () => going);
    const answer = await fetch(`${base}api/trees`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ from: 'text', text }),
    });
    const { id } = (await answer.json()) as { id: string };
    const query = { query: { kind: 'text', text: 'from Branch\ncount', head: '' }, parameters: {} };
    await fetch(`${base}api/trees/${id}/run`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(query),
    }).then((done) => done.arrayBuffer());
    going = false;
    const worst = await waited;
    worstOfAll = Math.max(worstOfAll, worst);
    lines.push(
      `${name}: read in ${(hostile / plain).toFixed(2)} × 500 entities; meanwhile others waited ${worst.toFixed(0)} ms at most`,
    );
  }
  await serving.close();
  rmSync(data, { recursive: true, force: true });
  lines.push(`others waited ${worstOfAll.toFixed(0)} ms at most, and ${idle.toFixed(0)} ms where nothing was going on`);
  return lines;
}
