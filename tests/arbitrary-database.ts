import fc from 'fast-check';

/** The statements of a SQLite database that uses every feature of its tables, with names and spellings of all sorts. */
export const arbitraryDatabase: fc.Arbitrary<string> = fc
  .array(
    fc.record({
      name: fc.constantFrom('users', 'Order', 'line item', 'it"s', 'Ünits', 'group', 'ab', 'notes'),
      key: fc.constantFrom(
        'integer',
        'autoincrement',
        'not null',
        'int',
        'text',
        'text not null',
        'named',
        'composite',
        'desc',
        'conflict',
        'blob',
        'none',
      ),
      columns: fc.array(
        fc.record({
          type: fc.constantFrom(
            ...[
              'INTEGER',
              'int',
              'BIGINT',
              'int(11)',
              'varchar(40)',
              'VARCHAR (40)',
              'TEXT',
              'text',
              'NUMERIC(8,2)',
              'decimal(10, 3)',
            ],
            ...[
              'REAL',
              'double precision',
              'BOOLEAN',
              'datetime',
              'DATE',
              'BLOB',
              '',
              'GEOMETRY',
              'unsigned big int',
              'JSON',
              'uuid',
            ],
          ),
          rest: fc.constantFrom(
            ...[
              '',
              '',
              '',
              ' NOT NULL',
              ' not null default 0',
              " DEFAULT 'it''s'",
              ' DEFAULT NULL',
              ' default (1 + 2)',
              ' default -1',
            ],
            ...[
              " default (datetime('now'))",
              ' DEFAULT CURRENT_TIMESTAMP',
              ' default 1.50',
              ' default "quoted"',
              ' default true',
            ],
            ...[' COLLATE NOCASE', ' collate rtrim', ' UNIQUE', ' UNIQUE ON CONFLICT IGNORE', ' NOT NULL ON CONFLICT IGNORE'],
            ...[' CHECK (length(@) < 40)', ' constraint small check (@ > 0 or @ is null)', " check (@ in ('a', 'b'))", ' NULL'],
            ...[
              ' generated always as (1 + 1) virtual',
              " AS ('x' || 'y') STORED",
              " default 'two\nlines'",
              " default x'00ff'",
              ' -- a remark\n',
            ],
          ),
        }),
        { maxLength: 5 },
      ),
      table: fc.uniqueArray(
        fc.constantFrom(
          ...[
            'unique (c0)',
            'constraint "u 1" unique (c0, c1)',
            'UNIQUE (c0, c1) ON CONFLICT REPLACE',
            'unique (c1 collate nocase)',
          ],
          ...[
            'check (c0 is not null or c1 is null)',
            'constraint pair check (c0 <> c1)',
            "check (c0 like 'a%')",
            'CHECK (c0 between 1 and 9)',
          ],
          ...["check (case when c0 = 1 then c1 else 'x' end is not null)", "check (c0 glob '[a-z]*')"],
        ),
        { maxLength: 3 },
      ),
      options: fc.constantFrom('', '', '', ' WITHOUT ROWID', ' strict'),
      keys: fc.array(
        fc.record({
          target: fc.nat(5),
          how: fc.constantFrom('inline', 'table', 'bare', 'named', 'code', 'missing', 'in key', 'pair'),
          rules: fc.constantFrom(
            ...[
              '',
              ' on delete cascade',
              ' ON DELETE SET NULL',
              ' on delete set default on update cascade',
              ' ON UPDATE RESTRICT',
            ],
            ...[' deferrable initially deferred', ' DEFERRABLE', ' not deferrable', ' match full on delete restrict'],
          ),
          required: fc.boolean(),
          unique: fc.boolean(),
        }),
        { maxLength: 3 },
      ),
      pivot: fc.boolean(),
      indexes: fc.uniqueArray(
        fc.constantFrom(
          ...[
            '(c0)',
            'unique (c0, c1)',
            '(c0 desc)',
            '(c1 collate nocase)',
            '(c0) where c0 is not null',
            '(lower(c0))',
            'unique (c1)',
          ],
        ),
        { maxLength: 3 },
      ),
      trigger: fc.boolean(),
    }),
    { minLength: 1, maxLength: 6 },
  )
  .map((tables) => {
    const named = tables.map((table, index) => ({
      ...table,
      name: `${table.name}${index === 0 ? '' : ` ${index}`}`.replace(/ (?=\d$)/, '_'),
    }));
    const statements: string[] = [];
    for (const [index, table] of named.entries()) statements.push(...statementsOf(table, index, named));
    statements.push(
      `CREATE VIEW recent AS\n  SELECT * FROM ${quote(named[0]?.name ?? '')}\n  WHERE 1 = 1`,
      'create virtual table words using fts5(body)',
      'create trigger through instead of insert on recent begin select 1; end',
    );
    return `${statements.join(';\n')};\n`;
  });

interface Wish {
  readonly name: string;
  readonly key: string;
  readonly columns: readonly { readonly type: string; readonly rest: string }[];
  readonly table: readonly string[];
  readonly options: string;
  readonly keys: readonly {
    readonly target: number;
    readonly how: string;
    readonly rules: string;
    readonly required: boolean;
    readonly unique: boolean;
  }[];
  readonly pivot: boolean;
  readonly indexes: readonly string[];
  readonly trigger: boolean;
}

function quote(name: string): string {
  return /^[a-z_0-9]+$/.test(name) && name !== 'group' ? name : `"${name.replaceAll('"', '""')}"`;
}

function isStrict({ options }: Wish): boolean {
  return options === ' strict';
}

/** The type of the key that another table's column has to hold. */
function keyColumns({ key }: Wish): readonly string[] {
  if (key === 'composite') return ['id', 'part'];
  return key === 'none' ? [] : ['id'];
}

function statementsOf(table: Wish, index: number, all: readonly Wish[]): string[] {
  const lines: string[] = [];
  const strict = isStrict(table);
  const type = (wished: string) => (strict && !/^(integer|int|real|text|blob|any)$/i.test(wished) ? 'TEXT' : wished);
  const ends = table.keys.flatMap((key) => all[key.target % all.length] ?? []);
  const [near, far] = ends;
  if (
    table.pivot &&
    index > 1 &&
    near !== undefined &&
    far !== undefined &&
    keyColumns(near).length === 1 &&
    keyColumns(far).length === 1
  ) {
    lines.push(
      `near_id INTEGER NOT NULL REFERENCES ${quote(near.name)} (id)`,
      `far_id INTEGER not null references ${quote(far.name)} (id)`,
    );
    for (const [position, column] of table.columns.entries()) lines.push(`c${position} ${column.type}`);
    if (table.key !== 'none') lines.push('primary key (near_id, far_id)');
    return [`create table ${quote(table.name)} (${lines.join(', ')})`];
  }
  const inline: Readonly<Record<string, string>> = {
    integer: 'id INTEGER PRIMARY KEY',
    autoincrement: 'id integer primary key autoincrement',
    'not null': 'id integer NOT NULL primary key',
    int: 'id INT PRIMARY KEY',
    text: `id ${strict ? 'text' : 'varchar(20)'} PRIMARY KEY`,
    'text not null': 'id TEXT NOT NULL PRIMARY KEY',
    named: 'id INTEGER CONSTRAINT "the key" PRIMARY KEY',
    desc: 'id INTEGER PRIMARY KEY DESC',
    conflict: 'id INTEGER PRIMARY KEY ON CONFLICT REPLACE',
    blob: 'id BLOB PRIMARY KEY',
    composite: 'id integer not null',
  };
  const withoutRowid =
    table.options === ' WITHOUT ROWID' && ['int', 'text', 'text not null', 'composite', 'blob'].includes(table.key);
  if (inline[table.key] !== undefined) lines.push(inline[table.key] ?? '');
  if (table.key === 'composite') lines.push(`part ${strict ? 'text' : 'varchar(12)'} NOT NULL`);
  const tail: string[] = table.key === 'composite' ? [`PRIMARY KEY (id, part)`] : [];
  for (const [position, key] of table.keys.entries()) {
    const target = all[key.target % all.length];
    if (target === undefined) continue;
    const column = `ref_${position}${position === 1 ? '' : '_id'}`;
    const rest = `${key.required ? ' NOT NULL' : ''}${key.unique ? ' unique' : ''}`;
    const there = keyColumns(target);
    const to = quote(target.name);
    if (key.how === 'missing') lines.push(`${column} INTEGER${rest} REFERENCES nowhere (id)${key.rules}`);
    else if (there.length === 2 || key.how === 'pair') {
      lines.push(`${column} INTEGER${rest}`, `${column}_part ${strict ? 'text' : 'varchar(12)'}`);
      tail.push(`foreign key (${column}, ${column}_part) references ${to}${key.how === 'bare' ? '' : ' (id, part)'}${key.rules}`);
    } else if (key.how === 'table') {
      lines.push(`${column} INTEGER${rest}`);
      tail.push(`FOREIGN KEY (${column}) REFERENCES ${to} (id)${key.rules}`);
    } else if (key.how === 'named') {
      lines.push(`${column} INTEGER${rest}`);
      tail.push(`constraint "fk ${index} ${position}" foreign key (${column}) references ${to}${key.rules}`);
    } else if (key.how === 'in key' && table.key === 'composite') {
      tail.push(`foreign key (id) references ${to} (id)${key.rules}`);
    } else if (key.how === 'code') lines.push(`${column} INTEGER${rest} references ${to} (c0)${key.rules}`);
    else lines.push(`${column} INTEGER${rest} REFERENCES ${to}${key.how === 'bare' ? '' : ' (id)'}${key.rules}`);
  }
  for (const [position, column] of table.columns.entries())
    lines.push(`c${position} ${type(column.type)}${column.rest.replaceAll('@', `c${position}`)}`);
  const has = (sql: string) =>
    Array.from(sql.matchAll(/\bc(\d)\b/g), ([, digit]) => Number(digit)).every((digit) => digit < table.columns.length);
  tail.push(...table.table.filter(has));
  if (lines.length === 0) lines.push('only text');
  const options = withoutRowid ? ' WITHOUT ROWID' : strict ? ' strict' : '';
  const stated = `CREATE TABLE ${quote(table.name)} (\n  ${[...lines, ...tail].join(',\n  ')}\n)${options}`;
  const indexes = table.indexes.filter(has).map((sql, position) => {
    const [unique, terms] = sql.startsWith('unique ') ? ['unique ', sql.slice(7)] : ['', sql];
    return `create ${unique}index ${quote(`i ${index} ${position}`)} on ${quote(table.name)} ${terms}`;
  });
  const trigger = `create trigger t${index} after insert on ${quote(table.name)}\nwhen new.rowid > 1 begin\n  select 1; -- nothing\n  select 'a;b';\nend`;
  return [stated, ...indexes, ...(table.trigger && !withoutRowid ? [trigger] : [])];
}
