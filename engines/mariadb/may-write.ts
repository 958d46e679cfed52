import type { Connection } from '../server/connection.js';

/** Rights by which nothing is changed, and no file read (MariaDB, “GRANT”: Privilege Levels). */
const READING = new Set(['USAGE', 'SELECT', 'SHOW VIEW', 'SHOW DATABASES', 'SHOW CREATE ROUTINE']);

/** What keeps the login from being one that may only read, in words: every right but those of reading, and every role. */
export async function mayWrite(connection: Connection): Promise<readonly string[]> {
  const grants = await connection.query('show grants for current_user()');
  return grants.flatMap(([grant]) => {
    const written = String(grant);
    const [, rights, place] = /^GRANT (.+?) ON (.+?) TO /.exec(written) ?? [];
    if (rights === undefined || place === undefined) return [`has a role (${written.split(' TO ')[0]})`];
    const more = rights
      .replace(/\([^)]*\)/g, '')
      .split(',')
      .map((right) => right.trim())
      .filter((right) => !READING.has(right));
    const [first] = more;
    return [
      ...(first === undefined ? [] : [`may do ${first} on ${place}`]),
      ...(/ WITH .*GRANT OPTION/.test(written) ? [`may give its rights on ${place} to others`] : []),
    ];
  });
}
