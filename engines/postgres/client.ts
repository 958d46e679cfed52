import type { Duplex } from 'node:stream';
import pg from 'pg';
import type { Connection } from '../server/connection.js';

/** Every value comes as the server's text of it; what it means is said by the model's types. */
const AS_TEXT = { getTypeParser: () => (text: string) => text };

/** A connection over a client of the driver. */
export function connectionOf(client: pg.ClientBase): Connection {
  return {
    async query(sql, values = []) {
      // The extended protocol takes one statement: the server refuses a second behind it (PostgreSQL, 55.2.3).
      const request = {
        text: sql,
        values: [...values],
        rowMode: 'array' as const,
        types: AS_TEXT,
        queryMode: 'extended' as const,
      };
      const result: pg.QueryArrayResult = await client.query(request);
      return result.rows ?? [];
    },
  };
}

/** A client that speaks over a stream of one's own. */
export function clientOver(stream: Duplex): pg.Client {
  return new pg.Client({ stream: () => stream, user: 'postgres', database: 'postgres', ssl: false });
}
