import { join } from 'node:path';
import { afterAll, beforeAll, expect, inject, test } from 'vitest';
import { readDesign } from '../core/design/index.js';
import type { Prepared } from '../core/load/index.js';
import { fillDatabase } from '../services/index.js';
import { ENGINES } from '../tests/agreement.js';
import { temporaryFolder } from '../tests/database.js';
import { dialectOf, type EmptyDatabase, type EngineName, type Engines, openEngines } from '../tests/engines.js';
import { preparedQuery } from '../tests/prepared.js';
import { openEmbedded } from './index.js';

let engines: Engines;
beforeAll(() => {
  engines = openEngines(inject('servers'));
});
afterAll(() => engines.close());

const TEXT = 'entity Hall\n  id integer key\n  name text(20)\n\nsample Hall 40\n';

/** A condition that no engine comes to the end of. */
const ENDLESS = {
  sqlite: '(with recursive n(i) as (select 1 union all select i + 1 from n) select count(*) from n) > 0',
  postgres: '(select count(*) from generate_series(1, 100000000000)) > 0',
  mariadb: 'sleep(600) = 1',
};

/** An empty database; the embedded engine keeps its own in a folder, so that it outlives a process that is ended. */
async function opened(name: EngineName): Promise<Pick<EmptyDatabase, 'engine' | 'remove'>> {
  if (name !== 'embedded') return engines.open(name);
  const folder = temporaryFolder();
  const embedded = openEmbedded({ folder: join(folder.path, 'own'), label: 'The embedded one', milliseconds: 60_000 });
  const remove = async () => {
    await embedded.close();
    folder.remove();
  };
  return { engine: embedded.at(null), remove };
}

const running = (milliseconds: number) => new Promise((resolve) => setTimeout(resolve, milliseconds));

test.each(ENGINES)(
  'on %s whoever stops what they asked stops nobody else, whatever is run',
  async (name) => {
    const { engine, remove } = await opened(name);
    const design = readDesign(TEXT, dialectOf(name));
    expect(await fillDatabase(design, engine)).toMatchObject({ ok: true });
    const halls = preparedQuery(design, 'from Hall\norder by id');
    const { select } = halls.compiled;
    const where = { kind: 'written' as const, sql: ENDLESS[design.dialect.name] };
    const endless: Prepared = { ...halls, compiled: { ...halls.compiled, select: { ...select, where } } };
    const load = (prepared: Prepared, signal: AbortSignal) =>
      engine.run('load', { prepared, rowLimit: 100 }, { signal, patient: true });

    const [first, second, third] = [new AbortController(), new AbortController(), new AbortController()];
    const stopped = load(endless, first.signal);
    const asked = load(halls, second.signal);
    // Statement by statement, between which others are answered.
    const sized = engine.run('sizes', [{ name: 'Hall', prepared: preparedQuery(design, 'from Hall\ncount') }], {
      signal: third.signal,
    });
    await running(400);
    first.abort();
    expect(await stopped).toMatchObject({ ok: false, problem: { code: 'ended', message: 'Stopped.' } });
    expect(await asked).toMatchObject({ ok: true, value: { rows: 40 } });
    expect(await sized).toEqual({ ok: true, value: { Hall: 40 } });

    // One that waits its turn is stopped without the one before it.
    const waiting = new AbortController();
    const before = load(halls, second.signal);
    const behind = load(endless, waiting.signal);
    waiting.abort();
    expect(await behind).toMatchObject({ ok: false, problem: { code: 'ended' } });
    expect(await before).toMatchObject({ ok: true, value: { rows: 40 } });

    // A run of many statements is stopped between them, and asks no more.
    const checking = new AbortController();
    const checked = engine.run(
      'check rows',
      { screens: [], questions: Array(50).fill({ screen: null, count: endless, examples: endless }), endsAt: [] },
      { signal: checking.signal },
    );
    await running(200);
    checking.abort();
    expect(await checked).toMatchObject({ ok: false, problem: { code: 'ended', message: 'Stopped.' } });
    expect(await load(halls, second.signal)).toMatchObject({ ok: true, value: { rows: 40 } });
    await remove();
  },
  600_000,
);
