/** Each benchmark prints a ratio against its reference, measured in the same run. */
import { readFileSync } from 'node:fs';
import { benchAudit } from './audit.js';
import { benchBringIn } from './bring-in.js';
import { benchChanges } from './changes.js';
import { benchChangesOnServers } from './changes-servers.js';
import { benchCreates } from './creates.js';
import { benchForms } from './forms.js';
import { benchHostile } from './hostile.js';
import { benchImpact } from './impact.js';
import { benchImportRows } from './import-rows.js';
import { benchImportServers } from './import-servers.js';
import { benchKeystroke } from './keystroke.js';
import { benchLive } from './live.js';
import { benchLiveLoad } from './live-load.js';
import { benchLoading } from './loading.js';
import { benchMap } from './map.js';
import { benchPage } from './page.js';
import { benchPlans } from './plans.js';
import { benchReading } from './reading.js';
import { benchServers } from './servers.js';
import { benchWalls } from './walls.js';
import { benchWays } from './ways.js';

const wanted = process.argv[2];
const benches: Readonly<Record<string, () => string[] | Promise<string[]>>> = {
  reading: benchReading,
  keystroke: benchKeystroke,
  hostile: benchHostile,
  map: benchMap,
  loading: benchLoading,
  forms: benchForms,
  servers: benchServers,
  ways: benchWays,
  walls: benchWalls,
  live: benchLive,
  'live-load': benchLiveLoad,
  audit: benchAudit,
  plans: benchPlans,
  'bring-in': benchBringIn,
  page: benchPage,
  impact: benchImpact,
  changes: benchChanges,
  'changes-servers': benchChangesOnServers,
  creates: benchCreates,
  'import-rows': benchImportRows,
  'import-servers': benchImportServers,
};

/** What bench/README.md says of each figure: the worst of its runs. */
const said = JSON.parse(readFileSync(new URL('./figures.json', import.meta.url), 'utf8')) as Readonly<Record<string, number>>;

/** A figure that is worse than the page says by more than a quarter. */
const WORSE = 1.25;

/** A line, and where its first ratio is worse than the page says, that it is. */
function compared(line: string): string {
  const [, name = '', ratio = ''] = /^(.*?)(?: \([^)]*\))?: (?:[^×]*?)(\d+\.\d+) ×/.exec(line) ?? [];
  const page = said[name];
  return page !== undefined && Number(ratio) > page * WORSE ? `${line}\n  ▲ worse than the page says: ${page}` : line;
}

for (const [name, bench] of Object.entries(benches)) {
  if (wanted !== undefined && wanted !== name) continue;
  for (const line of await bench()) process.stdout.write(`${compared(line)}\n`);
}
