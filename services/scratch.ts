import { type Design, statedSqlOf } from '../core/design/index.js';
import { type Embedded, type Engine, type Outcome, openMariadb, openPostgres, type ServerAccess } from '../engines/index.js';

/** A database of this program's own, to make a tree's tables in. */
export interface Scratch {
  readonly engine: Engine;
  /** Closes it, and takes it away. */
  remove(): Promise<void>;
}

/** Where scratch databases are made. */
export type Workshop =
  | { readonly kind: 'embedded'; readonly embedded: Embedded }
  | { readonly kind: 'server'; readonly access: ServerAccess };

/** What every scratch database of this program on a server is called. */
export const SCRATCH_PREFIX = 'family_tree_';

/** What a scratch database is called. */
export interface ScratchName {
  /** What those of one tree begin with. */
  readonly stem: string;
  readonly name: string;
  /** None of this stem is in use: what earlier runs left is taken away. */
  readonly first: boolean;
  /** What is to be made in it: nothing of that may stand, or reach, outside. */
  readonly design?: Design;
}

/**
 * Opens an empty database of its own on an engine. On a server it is a database, or on PostgreSQL a schema where the login
 * may not make one.
 */
export async function openScratch(workshop: Workshop, wanted: ScratchName): Promise<Outcome<Scratch>> {
  const { stem, name } = wanted;
  switch (workshop.kind) {
    case 'embedded': {
      const all = workshop.embedded.at(null);
      const place = `${SCRATCH_PREFIX}${stem}_${name}`;
      const made = await all.execute([`drop schema if exists ${place} cascade`, `create schema ${place}`]);
      if (!made.ok) return made;
      const remove = async () => void (await all.execute([`drop schema if exists ${place} cascade`]));
      return { ok: true, value: { engine: workshop.embedded.at(place), remove } };
    }
    case 'server':
      return workshop.access.address.engine === 'postgres'
        ? onPostgres(workshop.access, wanted)
        : onMariadb(workshop.access, wanted);
  }
}

async function onPostgres(access: ServerAccess, { stem, name, first, design }: ScratchName): Promise<Outcome<Scratch>> {
  const admin = openPostgres(access);
  const place = `${SCRATCH_PREFIX}${stem}_${name}`;
  const left = await admin.read('select datname from pg_database where datname like :stem', {
    stem: `${SCRATCH_PREFIX}${stem}\\_%`,
  });
  if (!left.ok) return closing(admin, left);
  if (first)
    await admin.execute(
      left.value.map(([database]) => `drop database if exists "${String(database).replaceAll('"', '""')}" with (force)`),
    );
  // Text that is no column's would else be compared by the rules of some language.
  const made = await admin.execute([`create database ${place} template template0 encoding 'UTF8' lc_collate 'C' lc_ctype 'C'`]);
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

async function onMariadb(access: ServerAccess, { stem, name, first, design }: ScratchName): Promise<Outcome<Scratch>> {
  const admin = openMariadb({ ...access, address: { ...access.address, database: '' }, place: null });
  const place = `${SCRATCH_PREFIX}${stem}_${name}`;
  const left = await admin.read('select schema_name from information_schema.schemata where schema_name like :stem', {
    stem: `${SCRATCH_PREFIX}${stem}\\_%`,
  });
  if (!left.ok) return closing(admin, left);
  if (first)
    await admin.execute(left.value.map(([database]) => `drop database if exists \`${String(database).replaceAll('`', '``')}\``));
  const outside = design === undefined ? null : await outsideOfDatabase(design, admin, access.label);
  if (outside !== null) return closing(admin, { ok: false, problem: { code: 'refused', message: outside } });
  const made = await admin.execute([`create database ${place} character set utf8mb4 collate utf8mb4_nopad_bin`]);
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

/** The tables of a text that say in which schema they stand. */
function placedTables({ schema }: Design): string[] {
  return schema.tables.flatMap(({ name }) => (name.schema === null ? [] : [`${name.schema}.${name.name}`]));
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

/** What would be made in, or reach, another database of a MariaDB server; null where nothing would. */
async function outsideOfDatabase(design: Design, admin: Engine, label: string): Promise<string | null> {
  const [placed] = placedTables(design);
  const wayOut = 'Nothing is made there. Take the name before the dot out, or try the text on its own SQLite file.';
  if (placed !== undefined) return `${label}: ${placed} would stand in another database than the scratch one. ${wayOut}`;
  const stated = statedSqlOf(design.model, design.dialect.name);
  if (stated.every(({ qualifiers }) => qualifiers.length === 0)) return null;
  const read = await admin.read('select schema_name from information_schema.schemata', {});
  if (!read.ok) return read.problem.message;
  const databases = new Set(read.value.map(([name]) => String(name).toLowerCase()));
  const named = stated.flatMap(({ qualifiers }) => qualifiers).find((name) => databases.has(name.toLowerCase()));
  return named === undefined
    ? null
    : `${label}: SQL that the text states names ${named}, which is a database of this server. ${wayOut}`;
}

/** A scratch database that a statement over another connection takes away. */
function removable(engine: Engine, admin: Engine, removal: string): Scratch {
  return {
    engine,
    remove: async () => {
      await engine.close();
      await admin.execute([removal]);
      await admin.close();
    },
  };
}

async function closing<T extends Outcome<never>>(engine: Engine, outcome: Outcome<unknown>): Promise<T> {
  await engine.close();
  return outcome as T;
}
