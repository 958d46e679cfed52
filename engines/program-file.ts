import { existsSync } from 'node:fs';
import { dirname, extname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const OWN_FILE = fileURLToPath(import.meta.url);

/**
 * The file of a program of this package that runs in a process of its own: as source where this module is source, and else as it was
 * built. `FAMILY_TREE_PROGRAMS` names a folder of built ones to take instead: they start in a tenth of the time.
 *
 * @param name where its source is in the package, without its ending, as `engines/sqlite/child`
 * @throws {Error} where there is no such program
 */
export function programFile(name: string): string {
  const built = process.env.FAMILY_TREE_PROGRAMS;
  if (built !== undefined) return join(built, `${name}.js`);
  const file = `${name}${extname(OWN_FILE)}`;
  for (let folder = dirname(OWN_FILE); ; folder = dirname(folder)) {
    if (existsSync(join(folder, file))) return join(folder, file);
    if (folder === dirname(folder)) throw new Error(`There is no program ${file} above ${OWN_FILE}.`);
  }
}
