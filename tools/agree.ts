/**
 * Compares the answers of all engines: `npm run agree -- --cases 100`. Each case is a generated tree, made with its samples on
 * SQLite, PostgreSQL, embedded PostgreSQL and MariaDB, and asked for everything that its entities and roles have.
 */
import fc from 'fast-check';
import { readDesign } from '../core/design/index.js';
import { agree, type Compared, ENGINES, everything } from '../tests/agreement.js';
import { arbitraryTree } from '../tests/arbitrary-tree.js';
import { type EngineName, openEngines } from '../tests/engines.js';
import { HURTING, HURTING_QUERIES } from '../tests/hurting-values.js';
import { startServers } from './servers.js';

const option = (name: string): string | undefined => {
  const at = process.argv.indexOf(`--${name}`);
  return at < 0 ? undefined : process.argv[at + 1];
};
const cases = Number(option('cases') ?? 20);
const seed = Number(option('seed') ?? Math.floor(performance.now()));
const names = (option('engines')?.split(',') as EngineName[] | undefined) ?? ENGINES;

const servers = await startServers();
const engines = openEngines(servers);
const compared: Compared = { answers: 0, values: 0 };
try {
  await agree(engines, HURTING, HURTING_QUERIES, compared, { names });
  await fc.assert(
    fc.asyncProperty(arbitraryTree, (text) =>
      agree(engines, text, everything({ design: readDesign(text) }), compared, { names }),
    ),
    { numRuns: cases, seed, endOnFailure: true },
  );
  process.stdout.write(`Equal on ${names.join(', ')}: ${compared.answers} answers, ${compared.values} values (seed ${seed}).\n`);
} finally {
  await engines.close();
  await servers.stop();
}
