import { spawnSync } from 'node:child_process';
import { rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readDesign } from '../core/design/index.js';
import { putLinesIn } from '../services/index.js';
import { dialectOf, makeOn, openEngines } from '../tests/engines.js';
import { startServers } from '../tools/servers.js';

const TREE = `tree 'Loans into servers'

entity Loan in loans
  id           integer key
  number       text(12) unique
  lent_on      date
  returned_on  date optional
  worth        decimal(8, 2)

sample Loan 0
`;

const LINES = 200_000;
const COLUMNS = ['id', 'number', 'lent_on', 'returned_on', 'worth'];

/** Lines of CSV put into servers, against the load of the server's own, which is told no line by line of what it refuses. */
export async function benchImportServers(): Promise<string[]> {
  const servers = await startServers();
  const engines = openEngines(servers);
  const file = join(tmpdir(), `server-loans-${process.pid}.csv`);
  const day = (at: number) => String((at % 28) + 1).padStart(2, '0');
  const lines = Array.from(
    { length: LINES },
    (_, at) => `${at + 1},N-${at},2031-04-${day(at)},2031-05-${day(at)},${at % 900}.50`,
  );
  writeFileSync(file, `${COLUMNS.join()}\n${lines.join('\n')}\n`);
  const told: string[] = [];
  try {
    for (const name of ['postgres', 'mariadb'] as const) {
      const { database, design } = await makeOn(engines, name, TREE);
      const { address } = database;
      if (address === null) throw new Error(`${name} has no address`);
      const started = performance.now();
      const outcome = await putLinesIn(readDesign(TREE, dialectOf(name)), database.engine, {
        mapping: {
          entity: 'Loan',
          columns: COLUMNS.map((field) => ({ name: field, use: { kind: 'field', field } })),
          nothing: '',
          there: 'refuse',
          match: [],
        },
        file: { path: file, form: 'csv', columns: COLUMNS, delimiter: ',' },
        sampleKeys: {},
        madeHere: true,
        now: '2031-04-12T09:00:00.000000Z',
        rehearse: false,
        goodOnes: false,
      });
      const ours = performance.now() - started;
      if (!outcome.ok || outcome.report.created !== LINES) throw new Error(`${name}: the lines did not go in`);
      await database.engine.execute([name === 'postgres' ? 'truncate loans' : 'truncate table loans']);
      const { host, port, user, database: place } = address;
      const own = performance.now();
      const ran =
        name === 'postgres'
          ? spawnSync(
              'psql',
              [
                '-h',
                host,
                '-p',
                String(port),
                '-U',
                user,
                '-d',
                place,
                '-v',
                'ON_ERROR_STOP=1',
                '-c',
                `\\copy loans from '${file}' with (format csv, header)`,
              ],
              {
                env: { ...process.env, PGPASSWORD: servers.password },
                encoding: 'utf8',
              },
            )
          : spawnSync(
              'mariadb',
              [
                '--local-infile=1',
                '-h',
                host,
                '-P',
                String(port),
                '-u',
                user,
                `-p${servers.password}`,
                place,
                '-e',
                `load data local infile '${file}' into table loans fields terminated by ',' lines terminated by '\\n' ignore 1 lines`,
              ],
              { encoding: 'utf8' },
            );
      const theirs = performance.now() - own;
      if (ran.status !== 0) throw new Error(ran.stderr);
      told.push(
        `${LINES.toLocaleString('en')} lines of CSV put into ${name === 'postgres' ? 'PostgreSQL' : 'MariaDB'} (${ours.toFixed(0)} ms against ${theirs.toFixed(0)} ms): ${(ours / theirs).toFixed(2)} × the server’s own load of ${design.schema.tables.length} table`,
      );
      await database.remove();
    }
  } finally {
    rmSync(file, { force: true });
    await engines.close();
    await servers.stop();
  }
  return told;
}
