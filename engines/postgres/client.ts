import type { Duplex } from 'node:stream';
import pg from 'pg';
import { PlainTable } from '../plain-rows.js';
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
    async readSome({ sql, explains }, most) {
      const cursor = explains ? null : 'read_some';
      // A cursor brings no more than is asked for, and only a statement that reads can have one (PostgreSQL, DECLARE).
      if (cursor !== null) await client.query(`declare ${cursor} no scroll cursor for ${sql}`);
      const text = cursor === null ? sql : `fetch forward ${most.rows + 1} from ${cursor}`;
      const result: pg.QueryArrayResult = await client.query({ text, rowMode: 'array' as const, types: AS_TEXT });
      const table = new PlainTable(
        result.fields.map(({ name }) => name),
        most,
      );
      const read = result.fields.map(({ dataTypeID }) => READINGS[dataTypeID] ?? ((value: string) => value));
      for (const row of result.rows) {
        const values = row.map((value: string | null, column) => (value === null ? null : read[column]?.(value)));
        if (!table.take(values)) break;
      }
      return table.table;
    },
  };
}

/** Numbers of types whose texts JSON can hold as they are meant (pg_type.oid): booleans, whole numbers of 16 and 32 bits. */
const READINGS: Readonly<Record<number, (text: string) => unknown>> = {
  16: (text) => text === 't',
  20: (text) => BigInt(text),
  21: Number,
  23: Number,
};

/** A client that speaks over a stream of one's own. */
export function clientOver(stream: Duplex): pg.Client {
  return new pg.Client({ stream: () => stream, user: 'postgres', database: 'postgres', ssl: false });
}
