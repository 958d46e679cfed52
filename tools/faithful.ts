/** `npm run faithful -- FILE…`: brings each SQLite file or script in, writes it out again, and compares the two catalogues. */
import { readFileSync } from 'node:fs';
import { basename } from 'node:path';
import Database from 'better-sqlite3';
import { readDesign } from '../core/design/index.js';
import { scriptOf, sqliteDialect } from '../core/dialects/index.js';
import { importSchema } from '../core/import/index.js';
import { introspect } from '../engines/sqlite/introspect.js';
import { catalogueOf } from '../tests/catalogue.js';

let different = 0;
for (const file of process.argv.slice(2)) {
  const original = /\.sql$/i.test(file) ? new Database(':memory:') : new Database(file, { readonly: true });
  if (/\.sql$/i.test(file)) original.exec(readFileSync(file, 'utf8'));
  const { text, summary, kept, report } = importSchema(introspect(original), basename(file));
  const design = readDesign(text);
  const made = new Database(':memory:');
  made.exec(scriptOf(sqliteDialect, design.schema));
  const [before, after] = [catalogueOf(original), catalogueOf(made)];
  const lost = before.filter((line) => !after.includes(line));
  const added = after.filter((line) => !before.includes(line));
  const stable = importSchema(introspect(made), basename(file)).text === text;
  const same = lost.length === 0 && added.length === 0 && stable;
  if (!same) different += 1;
  process.stdout.write(`${same ? 'same' : 'DIFFERENT'}  ${basename(file)}: ${summary}\n`);
  for (const line of [...lost.map((what) => `lost: ${what}`), ...added.map((what) => `added: ${what}`)])
    process.stdout.write(`  ${line}\n`);
  for (const line of kept) process.stdout.write(`  kept as SQL: ${line}\n`);
  for (const line of report) process.stdout.write(`  not carried: ${line}\n`);
}
process.exitCode = different === 0 ? 0 : 1;
