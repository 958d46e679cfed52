import type { Dialect } from '../dialects/index.js';
import { OWN_PREFIX } from '../schema/index.js';
import type { ApplyRequest } from './apply-plan.js';

/** Where it is kept how far a plan is, on an engine whose definitions commit by themselves. */
export const JOURNAL_TABLE = `${OWN_PREFIX}applying`;

/** A plan that is under way, or was left half done. */
export interface Journal {
  readonly request: ApplyRequest;
  /** So many of its statements are done; the one that follows may be. */
  readonly done: number;
  /** What was being done with it. */
  readonly way: 'forth' | 'back';
}

export function journalTable({ tableOptions }: Dialect): string {
  return `create table if not exists ${JOURNAL_TABLE} (id int not null primary key, done int not null, way varchar(10) not null, request longtext not null) ${tableOptions.join(' ')}`.trimEnd();
}

export function journalBegun(request: ApplyRequest): { readonly sql: string; readonly values: readonly (string | number)[] } {
  return {
    sql: `insert into ${JOURNAL_TABLE} (id, done, way, request) values (1, 0, 'forth', ?)`,
    values: [JSON.stringify(request)],
  };
}

export function journalAt(
  done: number,
  way: Journal['way'] = 'forth',
): { readonly sql: string; readonly values: readonly (string | number)[] } {
  return { sql: `update ${JOURNAL_TABLE} set done = ?, way = ? where id = 1`, values: [done, way] };
}

export const JOURNAL_ENDED = { sql: `delete from ${JOURNAL_TABLE}`, values: [] } as const;

export const JOURNAL_QUERY = `select done, way, request from ${JOURNAL_TABLE} where id = 1`;

/** What the journal says; null where no plan is under way. */
export function readJournal([row]: readonly (readonly unknown[])[]): Journal | null {
  if (row === undefined) return null;
  // It is a text that this program wrote itself.
  return {
    done: Number(row[0]),
    way: row[1] === 'back' ? 'back' : 'forth',
    request: JSON.parse(String(row[2])) as ApplyRequest,
  };
}

/** Whether a plan that is so far can be taken back: what comes after is finished. */
export function canTakeBack({ request: { operations }, done, way }: Journal): boolean {
  return way === 'back' || operations.slice(0, done + 1).every(({ back }) => back !== undefined);
}
