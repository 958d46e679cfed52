import type { TableName } from '../sql/index.js';
import type { KeyColumns, Policies } from './dialect.js';

/**
 * Row security (PostgreSQL, 5.8 Row Security Policies). A condition that looks at other tables stands in a function of the tables'
 * owner, whom no policy keeps; else policies would be asked within policies. A policy's own check sees a row before it is there, so
 * that what a row may become is looked at by a trigger, when it is.
 *
 * @param quote a name as SQL has it
 * @param tableName a table's name as SQL has it
 */
export function postgresPolicies(quote: (name: string) => string, tableName: (table: TableName) => string): Policies {
  const functionOf = (what: string, { schema, name }: TableName) => tableName({ schema, name: `${what}_${name}` });
  const tuple = (names: readonly string[], of = '') => {
    const quoted = names.map((name) => `${of}${quote(name)}`).join(', ');
    return names.length === 1 ? quoted : `(${quoted})`;
  };
  const among = (what: string, table: TableName, held: readonly string[], of = '') =>
    `${tuple(held, of)} in (select * from ${functionOf(what, table)}())`;
  const keys = (what: string, table: TableName, columns: KeyColumns, query: string) =>
    [
      `create function ${functionOf(what, table)}()`,
      `  returns table (${columns.map(({ name, type }) => `${quote(name)} ${type}`).join(', ')})`,
      '  language sql stable security definer set search_path from current as $$',
      `${query}`,
      '$$',
    ].join('\n');
  return {
    ofTable(table, columns, { seen, changed }) {
      const name = tableName(table);
      const held = columns.map((column) => column.name);
      const kept = functionOf('keep', table);
      return [
        ...(seen === null ? [] : [keys('seen', table, columns, seen)]),
        keys('changed', table, columns, changed),
        `alter table ${name} enable row level security`,
        `create policy seen on ${name} for select using (${seen === null ? 'true' : among('seen', table, held)})`,
        `create policy made on ${name} for insert with check (true)`,
        `create policy changed on ${name} for update using (${among('changed', table, held)}) with check (true)`,
        `create policy deleted on ${name} for delete using (${among('changed', table, held)})`,
        [
          `create function ${kept}() returns trigger`,
          '  language plpgsql security definer set search_path from current as $$',
          'begin',
          `  if ${among('changed', table, held, 'new.')} then return null; end if;`,
          "  raise exception 'what is written stays within the walls of whoever is at work' using errcode = 'insufficient_privilege';",
          'end',
          '$$',
        ].join('\n'),
        [
          `create constraint trigger ${quote(`keep_${table.name}`)} after insert or update on ${name}`,
          `  for each row when (row_security_active('${name.replaceAll("'", "''")}'::regclass)) execute function ${kept}()`,
        ].join('\n'),
      ];
    },
    asRole: (role) => `set local role ${quote(role)}`,
    // A block is one transaction where it stands alone, and an error within it takes all of it back.
    fails: (said, change, touched) =>
      [
        'do $$',
        'begin',
        ...said.map((statement) => `  ${statement.replace(/^select /, 'perform ')};`),
        `  ${change};`,
        `  if found then raise exception '${touched}'; end if;`,
        'end',
        '$$',
      ].join('\n'),
    ofPairs(table, ends) {
      const name = tableName(table);
      const both = ends.map(({ columns, of }) => among('seen', of, columns)).join('\n  and ');
      return [
        `alter table ${name} enable row level security`,
        `create policy seen on ${name} using (${both}) with check (${both})`,
      ];
    },
  };
}
