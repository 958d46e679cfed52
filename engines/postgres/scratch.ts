import { type Design, statedSqlOf } from '../../core/design/index.js';
import type { Outcome } from '../engine.js';
import { rawRows } from '../raw-rows.js';
import type { ServerAccess } from '../server/access.js';
import { closing, placedTables, removable, SCRATCH_PREFIX, type Scratch, type ScratchName } from '../server/scratch.js';
import type { Embedded } from './embedded/engine.js';
import { openPostgres } from './engine.js';

/** Text that is no column's would else be compared by the rules of some language. */
const EMPTY = "template template0 encoding 'UTF8' lc_collate 'C' lc_ctype 'C'";

/** The database that is there from the start, to be logged in to while there is no other (PostgreSQL, “createdb”). */
const FIRST_DATABASE = 'postgres';

/** Makes an empty database of the name that an address has. */
export async function makeEmpty(access: ServerAccess): Promise<Outcome<null>> {
  const { database } = access.address;
  const admin = openPostgres({ ...access, address: { ...access.address, database: FIRST_DATABASE }, place: null });
  const made = await admin.execute([`create database "${database.replaceAll('"', '""')}" ${EMPTY}`]);
  return closing(admin, made.ok ? { ok: true, value: null } : made);
}

/** Opens an empty database of its own on a server; a schema, where the login may not make a database. */
export async function openScratch(access: ServerAccess, { stem, name, first, design }: ScratchName): Promise<Outcome<Scratch>> {
  const admin = openPostgres(access);
  const place = `${SCRATCH_PREFIX}${stem}_${name}`;
  const left = await rawRows(admin, 'select datname from pg_database where datname like :stem', {
    stem: `${SCRATCH_PREFIX}${stem}\\_%`,
  });
  if (!left.ok) return closing(admin, left);
  if (first)
    await admin.execute(
      left.value.map(([database]) => `drop database if exists "${String(database).replaceAll('"', '""')}" with (force)`),
    );
  const made = await admin.execute([`create database ${place} ${EMPTY}`]);
  if (made.ok) {
    const engine = openPostgres({ ...access, address: { ...access.address, database: place }, place: null });
    return { ok: true, value: removable(engine, admin, `drop database if exists ${place} with (force)`) };
  }
  if (made.problem.code !== 'refused') return closing(admin, made);
  const outside = design === undefined ? null : outsideOfSchema(design, access.label);
  if (outside !== null) return closing(admin, { ok: false, problem: { code: 'refused', message: outside } });
  const schema = await admin.execute([`drop schema if exists ${place} cascade`, `create schema ${place}`]);
  if (!schema.ok)
    return closing(admin, {
      ok: false,
      problem: {
        code: 'refused',
        message: `${access.label}: this login may make neither a database nor a schema, so the tables of the text cannot be tried there. A database that is brought in from it can be looked at. To try the text, use the tree’s own SQLite file or the embedded PostgreSQL, or ask for the right to create databases.`,
      },
    });
  return { ok: true, value: removable(openPostgres({ ...access, place }), admin, `drop schema if exists ${place} cascade`) };
}

/** Opens an empty schema of its own in an embedded engine. */
export async function openEmbeddedScratch(embedded: Embedded, { stem, name }: ScratchName): Promise<Outcome<Scratch>> {
  const all = embedded.at(null);
  const place = `${SCRATCH_PREFIX}${stem}_${name}`;
  const made = await all.execute([`drop schema if exists ${place} cascade`, `create schema ${place}`]);
  if (!made.ok) return made;
  const remove = async () => void (await all.execute([`drop schema if exists ${place} cascade`]));
  return { ok: true, value: { engine: embedded.at(place), remove } };
}

/** What would be made outside a scratch schema, beside tables that are in use; null where nothing would. */
function outsideOfSchema(design: Design, label: string): string | null {
  const [placed] = placedTables(design);
  const stated = statedSqlOf(design.model, design.dialect.name);
  if (placed === undefined && stated.length === 0) return null;
  const what =
    placed === undefined
      ? 'the SQL that the text states could reach the other schemas'
      : `${placed} would stand in another schema`;
  return `${label}: this login may make no database of its own, and in a schema ${what}. Use a login that may create databases, or the embedded PostgreSQL.`;
}
