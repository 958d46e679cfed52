import { capitalCase, singular, snakeCase } from '../model/index.js';
import { ENTITY_LINE_WORDS, RESERVED } from '../notation/index.js';

const AMBIGUOUS = new Set<string>([
  ...RESERVED,
  'me',
  'desc',
  'and',
  'or',
  'in',
  'is',
  'like',
  'between',
  'as',
  'when',
  'then',
  'else',
  'end',
]);

/** A name as the notation writes it: bare where it can be, else in double quotes. */
export function written(name: string): string {
  const bare = /^[a-z_][A-Za-z0-9_]*$/.test(name) && !AMBIGUOUS.has(name);
  return bare ? name : `"${name.replaceAll('"', '""')}"`;
}

/** A name that begins a line; there the words that begin other lines are quoted, too. */
export function writtenFirst(name: string): string {
  return ENTITY_LINE_WORDS.includes(name) ? `"${name}"` : written(name);
}

/** Gives names, none twice without regard to case. A clash is solved by the next wish, which says more. */
export class Names {
  private readonly taken = new Set<string>();

  claim(...wishes: readonly string[]): string {
    const free = wishes.find((wish) => wish !== '' && !this.taken.has(wish.toLowerCase()));
    let name = free ?? wishes.at(-1) ?? 'name';
    // Only two things that are alike in every word get here.
    while (this.taken.has(name.toLowerCase())) name = `${name}_again`;
    this.taken.add(name.toLowerCase());
    return name;
  }

  /** Takes a name that is given already; nothing where there is none. */
  reserve(name: string | undefined): void {
    if (name !== undefined) this.take(name);
  }

  take(name: string): void {
    this.taken.add(name.toLowerCase());
  }
}

/** The name of the entity that a table holds: singular and capitalised. */
export function entityName(table: string, names: Names): string {
  const base = snakeCase(table);
  const one = capitalCase(singular(base));
  const many = capitalCase(base);
  const starts = /^[A-Z]/.test(one) ? '' : 'Table';
  return names.claim(`${starts}${one}`, `${starts}${many}`, `${starts}${many}Table`);
}

/** Words that end as a key does, and are none. */
const NO_KEYS =
  /(?:^|_)(?:paid|unpaid|valid|invalid|void|avoid|grid|bid|aid|kid|lid|raid|maid|said|rapid|solid|fluid|liquid|hybrid|android|squid)$/i;

/**
 * The role that a key column speaks of: `user_id` → `user`, `userId` → `user`; `created_by` stays.
 *
 * @param target the key that it points at, of one column, which may bear its table's name: with `hostid` for it,
 *   `proxy_hostid` → `proxy_host`
 */
export function roleStem(column: string, target = ''): string {
  const plain = column.replace(/_(id|key|fk)$/i, '').replace(/([a-z])I[dD]$/, '$1');
  const ending = target.length > 2 && column.toLowerCase().endsWith(target.toLowerCase()) ? target : '';
  const joined = plain === column && /[a-z]{2}id$/i.test(column) && (ending !== '' || !NO_KEYS.test(column));
  const stem = joined ? column.slice(0, -2) : plain;
  return snakeCase(stem === '' ? column : stem).replace(/\W+/g, '_');
}
