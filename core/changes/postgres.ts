import { sqlTokens, withoutNumbering } from '../sql/index.js';
import { type Alterations, alteringBy } from './alter.js';

/** How PostgreSQL alters (its “ALTER TABLE”). All of it stands in one transaction. */
const spelling: Alterations = {
  dropForeignKey: (table, name) => `alter table ${table} drop constraint ${name}`,
  dropUnique: (table, name) => `alter table ${table} drop constraint ${name}`,
  dropCheck: (table, name) => `alter table ${table} drop constraint ${name}`,
  dropPrimaryKey: (table, name) => `alter table ${table} drop constraint ${name}`,
  dropIndex: (table, index) => {
    const at = table.lastIndexOf('.');
    return `drop index ${at === -1 ? '' : table.slice(0, at + 1)}${index}`;
  },
  dropTrigger: (table, trigger) => `drop trigger ${trigger} on ${table}`,
  renameTable: (from, { name }, quote) => `alter table ${from} rename to ${quote(name)}`,
  changeColumn(table, change, line, value) {
    const { before, after } = change;
    const name = nameIn(line);
    const alter = (what: string) => `alter table ${table} alter column ${name} ${what}`;
    const [was, is] = [identityOf(before.type), identityOf(after.type)];
    const type = withoutNumbering(after.type);
    // A type of the same name that lists other values is another.
    const isAnother = change.type && before.type === after.type;
    const retyped = isAnother || withoutNumbering(before.type).toLowerCase() !== type.toLowerCase() || change.collation;
    if (change.generated) return after.generated === null ? [alter('drop expression')] : null;
    // An expression that converts may ask no other rows (“ALTER TABLE … USING”).
    if (retyped && value !== null && /\bselect\b/i.test(value)) return null;
    const collation = after.collation === null ? '' : ` collate "${after.collation}"`;
    return [
      ...(was !== null && was !== is ? [alter('drop identity')] : []),
      ...(retyped && before.default !== null ? [alter('drop default')] : []),
      ...(retyped ? [alter(`type ${type}${collation}${value === null ? '' : ` using (${value})`}`)] : []),
      ...(change.notNull ? [alter(after.notNull ? 'set not null' : 'drop not null')] : []),
      ...((change.default || retyped) && after.default !== null ? [alter(`set default ${after.default}`)] : []),
      ...(change.default && !retyped && after.default === null ? [alter('drop default')] : []),
      ...(is !== null && was !== is ? [alter(`add ${is}`)] : []),
      ...(change.comment
        ? [
            `comment on column ${table}.${name} is ${after.comment === null ? 'null' : `'${after.comment.replaceAll("'", "''")}'`}`,
          ]
        : []),
    ];
  },
  loosen: (table, _column, line) => `alter table ${table} alter column ${nameIn(line)} drop not null`,
  tighten: (table, column, line) => [
    ...(column.default === null ? [] : [`alter table ${table} alter column ${nameIn(line)} set default ${column.default}`]),
    ...(column.notNull || identityOf(column.type) !== null
      ? [`alter table ${table} alter column ${nameIn(line)} set not null`]
      : []),
    ...(identityOf(column.type) === null
      ? []
      : [`alter table ${table} alter column ${nameIn(line)} add ${identityOf(column.type)}`]),
  ],
  update: (table, select, key, set) =>
    `update ${table} set ${set.map(([column, value]) => `${column} = rows_to_be.${value}`).join(', ')}\nfrom (\n${select}\n) rows_to_be\nwhere ${key.map(([column, value]) => `${table}.${column} = rows_to_be.${value}`).join(' and ')}`,
  nameOf: ({ name: { name } }, part, columns) =>
    [name, ...(part === 'pkey' || (part === 'check' && columns.length !== 1) ? [] : columns), part].join('_'),
  dropOf(sql) {
    const [, kind] =
      /^create\s+(?:or\s+replace\s+)?(?:unlogged\s+|recursive\s+|constraint\s+)?(materialized\s+view|view|function|procedure|type|domain|sequence|aggregate|schema|extension|trigger|index|unique\s+index)\b/i.exec(
        sql,
      ) ?? [];
    if (kind === undefined || /^(?:schema|extension)$/i.test(kind)) return null;
    const rest = sql.slice(sql.toLowerCase().indexOf(kind.toLowerCase()) + kind.length);
    const tokens = sqlTokens(rest.slice(0, 2000));
    const at = tokens[0]?.text.toLowerCase() === 'if' ? 3 : 0;
    const isPlaced = tokens[at + 1]?.text === '.';
    const last = tokens[isPlaced ? at + 2 : at];
    if (last === undefined) return null;
    const name = `${isPlaced ? `${tokens[at]?.text}.` : ''}${last.text}`;
    const word = kind.toLowerCase().replace(/^unique /, '');
    if (word === 'function' || word === 'procedure') {
      const open = rest.indexOf('(');
      return `drop ${word} ${name}${open === -1 ? '' : rest.slice(open, closing(rest, open) + 1).replace(/\s+default\s+[^,)]+/gi, '')}`;
    }
    return `drop ${word} ${name}`;
  },
  alterOf(sql) {
    const [, name, options = ''] =
      /^create\s+sequence\s+((?:[\w$]+|"(?:[^"]|"")+")(?:\.(?:[\w$]+|"(?:[^"]|"")+"))?)\b(.*)$/is.exec(sql) ?? [];
    if (name === undefined) return null;
    // What the statement leaves out is as it is by default, and an option is said once
    // (https://www.postgresql.org/docs/15/sql-altersequence.html).
    const left = SEQUENCE_DEFAULTS.filter(({ said }) => !said.test(options)).map(({ option }) => option);
    return `alter sequence ${name} ${[...left, options.trim()].join(' ').trim()}`;
  },
  typeOf(sql) {
    const [, kind, name] = /^drop (type|domain) (.+)$/.exec(spelling.dropOf(sql) ?? '') ?? [];
    return name === undefined ? null : { kind: kind === 'domain' ? 'domain' : 'type', name };
  },
  givenNumbers: ' overriding system value',
  // https://www.postgresql.org/docs/15/ddl-system-columns.html: within a statement it tells rows apart.
  rowAddress: 'ctid',
  replacesFunctions: true,
};

const SEQUENCE_DEFAULTS: readonly { readonly option: string; readonly said: RegExp }[] = [
  { option: 'as bigint', said: /\bas\s+(?:smallint|integer|int|bigint)\b/i },
  { option: 'increment by 1', said: /\bincrement\b/i },
  { option: 'no minvalue', said: /\bminvalue\b/i },
  { option: 'no maxvalue', said: /\bmaxvalue\b/i },
  { option: 'cache 1', said: /\bcache\b/i },
  { option: 'no cycle', said: /\bcycle\b/i },
];

export const postgresStrategy = alteringBy(spelling);

/** Where a bracket closes. */
function closing(sql: string, open: number): number {
  let depth = 0;
  for (let at = open; at < sql.length; at++) {
    if (sql[at] === '(') depth += 1;
    if (sql[at] === ')' && --depth === 0) return at;
  }
  return sql.length;
}

/** A column's name, as it stands in the line that states it. */
function nameIn(line: string): string {
  return sqlTokens(line)[0]?.text ?? '';
}

/** How the engine numbers a column; null where it does not. */
function identityOf(type: string): string | null {
  return / (generated (?:always|by default) as identity.*)$/i.exec(type)?.[1] ?? null;
}
