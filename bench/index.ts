/** Each benchmark prints a ratio against its reference, measured in the same run. */
import { benchBringIn } from './bring-in.js';
import { benchForms } from './forms.js';
import { benchHostile } from './hostile.js';
import { benchKeystroke } from './keystroke.js';
import { benchLoading } from './loading.js';
import { benchMap } from './map.js';
import { benchPage } from './page.js';
import { benchReading } from './reading.js';
import { benchServers } from './servers.js';

const wanted = process.argv[2];
const benches: Readonly<Record<string, () => string[] | Promise<string[]>>> = {
  reading: benchReading,
  keystroke: benchKeystroke,
  hostile: benchHostile,
  map: benchMap,
  loading: benchLoading,
  forms: benchForms,
  servers: benchServers,
  'bring-in': benchBringIn,
  page: benchPage,
};
for (const [name, bench] of Object.entries(benches)) {
  if (wanted !== undefined && wanted !== name) continue;
  for (const line of await bench()) process.stdout.write(`${line}\n`);
}
