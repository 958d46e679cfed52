import { type Design, statedSqlOf } from '../../core/design/index.js';
import type { Engine, Outcome } from '../engine.js';
import { rawRows } from '../raw-rows.js';
import type { ServerAccess } from '../server/access.js';
import { closing, placedTables, removable, SCRATCH_PREFIX, type Scratch, type ScratchName } from '../server/scratch.js';
import { openMariadb } from './engine.js';

const EMPTY = 'character set utf8mb4 collate utf8mb4_nopad_bin';

/** Makes an empty database of the name that an address has. */
export async function makeEmpty(access: ServerAccess): Promise<Outcome<null>> {
  const { database } = access.address;
  const admin = openMariadb({ ...access, address: { ...access.address, database: '' }, place: null });
  const made = await admin.execute([`create database \`${database.replaceAll('`', '``')}\` ${EMPTY}`]);
  return closing(admin, made.ok ? { ok: true, value: null } : made);
}

/** Opens an empty database of its own on a server. */
export async function openScratch(
  access: ServerAccess,
  { stem, name, first, design, likeInUse = false }: ScratchName,
): Promise<Outcome<Scratch>> {
  const admin = openMariadb({ ...access, address: { ...access.address, database: '' }, place: null });
  const place = `${SCRATCH_PREFIX}${stem}_${name}`;
  const left = await rawRows(admin, 'select schema_name from information_schema.schemata where schema_name like :stem', {
    stem: `${SCRATCH_PREFIX}${stem}\\_%`,
  });
  if (!left.ok) return closing(admin, left);
  if (first)
    await admin.execute(left.value.map(([database]) => `drop database if exists \`${String(database).replaceAll('`', '``')}\``));
  const outside = design === undefined ? null : await outsideOfDatabase(design, admin, access.label);
  if (outside !== null) return closing(admin, { ok: false, problem: { code: 'refused', message: outside } });
  const texts = likeInUse ? await defaultsOf(admin, access.address.database) : EMPTY;
  const made = await admin.execute([`create database ${place} ${texts}`]);
  if (!made.ok) {
    if (made.problem.code !== 'refused') return closing(admin, made);
    return closing(admin, {
      ok: false,
      problem: {
        code: 'refused',
        message: `${access.label}: this login may not make a database, so the tables of the text cannot be tried there. A database that is brought in from it can be looked at. To try the text, use the tree’s own SQLite file, or ask for the right to create databases that begin with ${SCRATCH_PREFIX}.`,
      },
    });
  }
  return { ok: true, value: removable(openMariadb({ ...access, place }), admin, `drop database if exists ${place}`) };
}

/** The character set and collation that a database has by default; those of this program's own where it is not there. */
async function defaultsOf(admin: Engine, database: string): Promise<string> {
  const read = await rawRows(
    admin,
    'select default_character_set_name, default_collation_name from information_schema.schemata where schema_name = :database',
    { database },
  );
  const [[set, collation] = []] = read.ok ? read.value : [];
  return typeof set === 'string' && typeof collation === 'string' ? `character set ${set} collate ${collation}` : EMPTY;
}

/** What would be made in, or reach, another database of a MariaDB server; null where nothing would. */
async function outsideOfDatabase(design: Design, admin: Engine, label: string): Promise<string | null> {
  const [placed] = placedTables(design);
  const wayOut = 'Nothing is made there. Take the name before the dot out, or try the text on its own SQLite file.';
  if (placed !== undefined) return `${label}: ${placed} would stand in another database than the scratch one. ${wayOut}`;
  const stated = statedSqlOf(design.model, design.dialect.name);
  if (stated.every(({ qualifiers }) => qualifiers.length === 0)) return null;
  const read = await rawRows(admin, 'select schema_name from information_schema.schemata', {});
  if (!read.ok) return read.problem.message;
  const databases = new Set(read.value.map(([name]) => String(name).toLowerCase()));
  const named = stated.flatMap(({ qualifiers }) => qualifiers).find((name) => databases.has(name.toLowerCase()));
  return named === undefined
    ? null
    : `${label}: SQL that the text states names ${named}, which is a database of this server. ${wayOut}`;
}
