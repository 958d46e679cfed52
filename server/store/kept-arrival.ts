import * as v from 'valibot';
import { Arrival } from '../../contract/index.js';
import type { Existing } from '../../core/import/index.js';
import { type Schema, type Table, type TableTrigger, writtenTrigger } from '../../core/schema/index.js';

/** How the database of a tree came in, and what it was then. */
export interface KeptArrival {
  readonly arrival: Arrival;
  readonly existing: Existing;
}

/** The same as it stands in the store. */
interface WrittenArrival {
  readonly arrival: Arrival;
  readonly existing: Omit<Existing, 'statements'> & { readonly statements: readonly (readonly [string, string])[] };
}

/** The same as earlier versions wrote it: the summary on one line, and of a trigger its SQL alone. */
interface EarlierArrival {
  readonly arrival: Omit<Arrival, 'summary'> & { readonly summary: Arrival['summary'] | string };
  readonly existing: Omit<WrittenArrival['existing'], 'schema'> & {
    readonly schema: Omit<Schema, 'tables'> & {
      readonly tables: readonly (Omit<Table, 'triggers'> & { readonly triggers: readonly (TableTrigger | string)[] })[];
    };
  };
}

/** An arrival as one text. */
export function writeArrival({ arrival, existing }: KeptArrival): string {
  const written: WrittenArrival = { arrival, existing: { ...existing, statements: Array.from(existing.statements) } };
  return JSON.stringify(written);
}

/** The arrival of a text, whichever version wrote it. */
export function readArrival(text: string): KeptArrival {
  // The program's own words, written by it alone; the part that goes out is looked at all the same.
  const { arrival, existing } = ofNow(JSON.parse(text) as EarlierArrival);
  return { arrival: v.parse(Arrival, arrival), existing: { ...existing, statements: new Map(existing.statements) } };
}

function ofNow({ arrival, existing }: EarlierArrival): WrittenArrival {
  const { summary } = arrival;
  const [was = '', became = ''] = typeof summary === 'string' ? summary.split(': ') : [];
  const tables = existing.schema.tables.map((table) => ({
    ...table,
    triggers: table.triggers.map((trigger) => (typeof trigger === 'string' ? writtenTrigger(trigger) : trigger)),
  }));
  return {
    arrival: { ...arrival, summary: typeof summary === 'string' ? { was, became } : summary },
    existing: { ...existing, schema: { ...existing.schema, tables } },
  };
}
