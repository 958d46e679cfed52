import { snakeCase } from '../model/index.js';
import type { Table } from '../schema/index.js';
import type { EntityTable, KeyLink } from './links.js';
import { written } from './names.js';

/** Foreign keys of which a check says that one alone is filled: one relation to several entities. */
export interface OneOf {
  readonly name: string;
  readonly child: EntityTable;
  readonly links: readonly KeyLink[];
  /** Exactly one is filled, rather than at most one. */
  readonly required: boolean;
  readonly role: string;
}

/** The foreign keys of a table that a check ties together, beyond doubt: it counts those that are filled. */
export function oneOfLinks(child: EntityTable, links: readonly KeyLink[]): OneOf[] {
  const free = links.filter(({ key, required, parent }) => {
    const plain = key.sql === null && key.name === null && key.columns.length === 1 && key.onDelete !== 'set default';
    return plain && !required && parent.key.length === 1;
  });
  return checksOf(child.table).flatMap((check): OneOf[] => {
    const counted = countedIn(check);
    if (counted === null) return [];
    const tied = counted.columns.map((name) => free.find(({ key }) => key.columns[0]?.toLowerCase() === name));
    const found = tied.filter((link) => link !== undefined);
    const [first] = found;
    const parents = new Set(found.map(({ parent }) => parent));
    if (first === undefined || found.length < 2 || found.length < tied.length || parents.size < found.length) return [];
    const alike = found.every(
      ({ key }) =>
        key.onDelete === first.key.onDelete && key.onUpdate === first.key.onUpdate && key.deferred === first.key.deferred,
    );
    if (!alike || (counted.required && first.key.onDelete === 'set null')) return [];
    const words = found.map(({ parent }) => snakeCase(parent.entity)).join('_or_');
    const role = child.members.claim('', words, `one_of_${words}`);
    return [{ name: first.name, child, links: found, required: counted.required, role }];
  });
}

function checksOf({ checks, constraints }: Table): string[] {
  const kept = constraints.flatMap((sql) => /^\s*(?:constraint\s+\S+\s+)?check\s*\(([\s\S]*)\)\s*$/i.exec(sql)?.[1] ?? []);
  return [...checks.map(({ expression }) => expression), ...kept];
}

const FILLED = /^(?:(\w+)isnotnull|casewhen(\w+?)isnullthen0else1end|casewhen(\w+?)isnotnullthen1else0end)$/;

/** The columns of which a check counts those that are filled, in lower case; null where it says something else. */
export function countedIn(check: string): { readonly columns: readonly string[]; readonly required: boolean } | null {
  const bare = check
    .toLowerCase()
    .replace(/::\w+/g, '')
    .replace(/["`[\]()\s]/g, '');
  const either = /^(\w+?)isnull(?:<>|!=)(\w+?)isnull$/.exec(bare) ?? /^(\w+?)isnotnull(?:<>|!=)(\w+?)isnotnull$/.exec(bare);
  if (either !== null) return { columns: [either[1] ?? '', either[2] ?? ''], required: true };
  const compared = /^(.+?)(=1|<=1|<2)$/.exec(bare);
  if (compared === null) return null;
  const [, sum = '', comparison] = compared;
  const required = comparison === '=1';
  const listed = /^num_nonnulls(.+)$/.exec(sum)?.[1]?.split(',');
  if (listed !== undefined) return listed.every((name) => /^\w+$/.test(name)) ? { columns: listed, required } : null;
  const columns: string[] = [];
  for (const term of sum.split('+')) {
    const [, a, b, c] = FILLED.exec(term) ?? [];
    const name = a ?? b ?? c;
    if (name === undefined) return null;
    columns.push(name);
  }
  return { columns, required };
}

/** A relation that several foreign keys and a check state together. */
export function tellOneOf({ name, child, links, required, role }: OneOf): string {
  const [first] = links;
  const targets = links.map(({ parent }) => parent.entity);
  const columns = links.map(({ key }) => `${child.entity}.${written(key.columns[0] ?? '')}`);
  const rule = (event: string, stated: string | undefined) =>
    stated === undefined || stated === 'no action' ? [] : [`  on ${event} ${stated}`];
  return [
    `relation ${written(name)}`,
    `  ${child.entity} knows ${required ? 'one' : 'at most one'} ${targets.join(' | ')} as ${written(role)}`,
    ...links.map(
      ({ parent, unique, reverse }) =>
        `  ${parent.entity} knows ${unique ? 'at most one' : 'many'} ${child.entity} as ${written(reverse)}`,
    ),
    `  stored in one of ${columns.join(', ')}`,
    ...rule('delete', first?.key.onDelete),
    ...rule('update', first?.key.onUpdate),
    ...(first?.key.deferred === true ? ['  deferred'] : []),
  ].join('\n');
}
