import type { Dialect } from '../dialects/index.js';
import { type Check, type Column, type ForeignKey, type Table, type TableTrigger, triggerName } from '../schema/index.js';
import { column, isNumbered, type SqlExpression, sqlName, sqlTokens, type TableName } from '../sql/index.js';
import { writtenPlace } from './answers.js';
import { asideKey } from './asides.js';
import type { ColumnChange, TableChange } from './compare.js';
import type { Operation } from './operation.js';
import { tableKey } from './pairs.js';
import { namesIn } from './renamed-schema.js';
import { going } from './rows-of.js';
import type { ShapedColumn, TableShape } from './shaping.js';
import { type StandingAround, type StandingSpelling, standingGone, standingMade } from './standing.js';
import type { Strategy, Working } from './working.js';

/** How an engine spells what changes a table that stands. */
export interface Alterations extends StandingSpelling {
  dropForeignKey(table: string, name: string): string;
  dropUnique(table: string, name: string): string;
  dropCheck(table: string, name: string): string;
  dropPrimaryKey(table: string, name: string): string;
  dropIndex(table: string, index: string): string;
  dropTrigger(table: string, trigger: string): string;
  renameTable(from: string, to: TableName, quote: (name: string) => string): string;
  /** The statements by which a column becomes what it is to be, but for its name: null where its values have to be put in anew. */
  changeColumn(table: string, change: ColumnChange, line: string, value: string | null): readonly string[] | null;
  /** A column may be null until it has its values. */
  loosen(table: string, column: Column, line: string): string;
  tighten(table: string, column: Column, line: string): readonly string[];
  /** Puts values into rows that stand: from a select, whose rows are told apart by a key. */
  update(
    table: string,
    select: string,
    key: readonly (readonly [string, string])[],
    set: readonly (readonly [string, string])[],
  ): string;
  /** What a constraint is called that was given no name. */
  nameOf(table: Table, part: 'key' | 'pkey' | 'fkey' | 'check', columns: readonly string[]): string;
  /** What an insert says whose numbers are given. */
  readonly givenNumbers: string;
  /** The column of the engine's own by which rows are told apart that have no key. */
  readonly rowAddress: string;
  /** Whether making it again replaces it. */
  readonly replacesFunctions: boolean;
}

/**
 * An engine that alters tables which stand: first what stands on what changes is taken down, then tables and columns change and
 * the rows with them, then all of it is put up again. What did not change, and stands on nothing that did, is not touched.
 */
export function alteringBy(spelling: Alterations): Strategy {
  return (working) => new Altering(working, spelling).operations();
}

class Altering {
  private readonly dialect: Dialect;
  private readonly shapes: readonly TableShape[];
  private readonly placed: (table: TableName) => TableName;
  /** What it takes to change what tables stand on. */
  private readonly around: StandingAround;
  /** Tables of which rows are written. */
  private readonly written: ReadonlySet<Table>;

  constructor(
    private readonly working: Working,
    private readonly spelling: Alterations,
  ) {
    this.dialect = working.dialect;
    const nowNamed = new Map(
      working.paired.tables.flatMap(({ before, after }) =>
        before === null || after === null ? [] : [[tableKey(before.name), after.name] as const],
      ),
    );
    this.placed = (table) => nowNamed.get(tableKey(table)) ?? table;
    this.around = { working, spelling, name: (table) => this.name(table) };
    this.shapes = working.shapes(this.placed);
    this.written = new Set(this.shapes.filter((shape) => this.writesRows(shape)).map(({ pair }) => pair.before));
  }

  operations(): readonly Operation[] {
    const { difference } = this.working;
    return [
      ...difference.changed.flatMap((change) => this.triggersDown(change)),
      ...difference.others.gone.toReversed().flatMap((sql) => this.dropped(sql)),
      ...this.working.paired.tables.flatMap(({ before, after }) =>
        before === null || after === null ? [] : this.keysDown(before),
      ),
      ...difference.gone.flatMap((table) =>
        table.foreignKeys.map((key) =>
          this.define(this.spelling.dropForeignKey(this.name(table.name), this.keyName(table, key)), table.name, 'a key goes'),
        ),
      ),
      ...difference.changed.flatMap((change) => this.constraintsDown(change)),
      ...difference.changed.flatMap((change) => this.renames(change)),
      ...difference.prelude.made.flatMap((sql) => standingMade(this.around, sql)),
      ...this.working.merges(this.placed).flatMap((merges) => this.merging(merges)),
      ...difference.made.flatMap(({ after }) => (after === null ? [] : this.madeBare(after))),
      ...difference.changed.flatMap((change) => this.columnsAdded(change)),
      ...difference.changed.flatMap((change) => this.loosened(change)),
      ...this.working.asides(this.placed).flatMap((kept) => this.keptAside(kept)),
      ...this.madeForOthers(),
      ...this.rowsOut(),
      ...difference.made.flatMap(({ after }) => (after === null ? [] : this.filled(after))),
      ...difference.changed.flatMap((change) => this.values(change)),
      ...difference.changed.flatMap((change) => this.columnsChanged(change)),
      ...this.working
        .merges(this.placed)
        .map(({ of, table }) => this.define(`drop table ${this.name(table)}`, of, 'they have become one')),
      ...difference.changed.flatMap((change) =>
        change.gone.map(({ name }) =>
          this.define(
            `alter table ${this.name(change.after.name)} drop column ${this.dialect.quote(name)}`,
            change.after.name,
            'a column goes',
          ),
        ),
      ),
      ...[...difference.made.flatMap(({ after }) => after ?? []), ...difference.changed.map(({ after }) => after)].flatMap(
        (table) => this.returned(table),
      ),
      ...difference.gone.map(({ name }) => this.define(`drop table ${this.name(name)}`, name, 'the table goes')),
      ...difference.changed.flatMap((change) => this.constraintsUp(change)),
      ...difference.made.flatMap(({ after }) =>
        after === null ? [] : this.partsOf(after, { ...after, foreignKeys: [], triggers: [] }, madeBareOf(after)),
      ),
      ...this.keysUp(),
      ...difference.prelude.gone.toReversed().flatMap((sql) => standingGone(this.around, sql) ?? this.dropped(sql)),
      ...difference.others.made.map((sql) => this.define(sql, null, 'what stands beside the tables')),
      ...difference.made.flatMap(({ after }) => (after === null ? [] : this.partsOf(after, after, { ...after, triggers: [] }))),
      ...difference.changed.flatMap((change) => this.triggersUp(change)),
    ];
  }

  private define(sql: string, table: TableName | null, what: string): Operation {
    return { kind: 'define', sql, what, table: table === null ? null : writtenPlace(table) };
  }

  private rows(sql: string, table: TableName, what: string): Operation {
    return { kind: 'rows', sql, what, table: writtenPlace(table) };
  }

  private name({ schema, name }: TableName): string {
    const { quote } = this.dialect;
    return schema === null ? quote(name) : `${quote(schema)}.${quote(name)}`;
  }

  private shapeOf({ before }: TableChange): TableShape | undefined {
    return this.shapes.find(({ pair }) => pair.before === before);
  }

  private writesRows(shape: TableShape): boolean {
    return (
      shape.leftOut.length + shape.mergedAway.length > 0 || shape.columns.some((one) => !one.carried && !this.isByDefault(one))
    );
  }

  /** A new column that is filled by its default alone, which the engine does by itself. */
  private isByDefault({ pair, value }: ShapedColumn): boolean {
    return pair.before === null && (value.kind === 'null' || value.kind === 'written');
  }

  // What stands on tables

  private triggersDown(change: TableChange): Operation[] {
    const gone = this.written.has(change.before) ? change.before.triggers : change.triggers.gone;
    return gone.map((trigger) =>
      this.define(
        this.spelling.dropTrigger(this.name(change.before.name), this.dialect.quote(triggerName(trigger))),
        change.after.name,
        'a trigger is taken down',
      ),
    );
  }

  private triggersUp(change: TableChange): Operation[] {
    const made: readonly TableTrigger[] = this.written.has(change.before) ? change.after.triggers : change.triggers.made;
    return this.partsOf(change.after, { ...change.after, triggers: made }, { ...change.after, triggers: [] });
  }

  /** Keys that go, and those that stand on a column which changes. */
  private keysDown(before: Table): Operation[] {
    return before.foreignKeys
      .filter((key) => this.isDown(before, key))
      .map((key) =>
        this.define(
          this.spelling.dropForeignKey(this.name(before.name), this.keyName(before, key)),
          before.name,
          'a key is taken down',
        ),
      );
  }

  private isDown(before: Table, key: ForeignKey): boolean {
    const change = this.working.difference.changed.find((one) => one.before === before);
    const at = before.foreignKeys.indexOf(key);
    const renamed = change?.renamed.foreignKeys[at];
    if (change !== undefined && renamed !== undefined && change.foreignKeys.gone.includes(renamed)) return true;
    return this.standsInTheWay(before, key);
  }

  private standsInTheWay(before: Table, key: ForeignKey): boolean {
    if (this.written.has(before)) return true;
    const target = this.working.before.tables.find(
      ({ name }) => tableKey(name) === tableKey({ schema: key.schema, name: key.table }),
    );
    if (target !== undefined && this.written.has(target)) return true;
    const moves = (table: Table | undefined, columns: readonly string[]) => {
      const change = this.working.difference.changed.find((one) => one.before === table);
      if (change === undefined) return false;
      return (
        change.primaryKey ||
        change.changed.some((one) => columns.includes(one.before.name) && (one.type || one.collation || one.notNull)) ||
        [...change.uniques.gone, ...change.indexes.gone].length > 0
      );
    };
    return moves(before, key.columns) || moves(target, key.references);
  }

  private keyName(table: Table, key: ForeignKey): string {
    return this.dialect.quote(key.name ?? this.spelling.nameOf(table, 'fkey', key.columns));
  }

  private keysUp(): Operation[] {
    const { paired, difference } = this.working;
    return paired.tables.flatMap(({ before, after }) => {
      if (after === null) return [];
      const change = difference.changed.find((one) => one.before === before);
      const keys = after.foreignKeys.filter((key) => {
        if (before === null || change?.foreignKeys.made.includes(key)) return true;
        const former = this.formerKey(before, change, key);
        return former !== undefined && this.standsInTheWay(before, former);
      });
      return keys.map((key) =>
        this.define(`alter table ${this.name(after.name)} add ${this.dialect.foreignKey(key)}`, after.name, 'a key is put up'),
      );
    });
  }

  private formerKey(before: Table, change: TableChange | undefined, key: ForeignKey): ForeignKey | undefined {
    const renamed = change?.renamed ?? before;
    const at = renamed.foreignKeys.findIndex(
      (one) => JSON.stringify([one.name, one.columns]) === JSON.stringify([key.name, key.columns]),
    );
    return before.foreignKeys[at];
  }

  /** What has to be taken down beside what goes: what speaks of a column that changes. */
  private constraintsDown(change: TableChange): Operation[] {
    const { before, renamed, after } = change;
    const table = this.name(before.name);
    const { quote } = this.dialect;
    const goesWith = this.goesWith(change);
    const original = <Part>(parts: readonly Part[], of: readonly Part[], from: readonly Part[]) =>
      parts.flatMap((part) => from[of.indexOf(part)] ?? []);
    return [
      ...original(
        renamed.indexes.filter((index) => change.indexes.gone.includes(index) || goesWith(index.columns, index.sql)),
        renamed.indexes,
        before.indexes,
      ).map((index) => this.define(this.spelling.dropIndex(table, quote(index.name)), after.name, 'an index goes')),
      ...original(this.checksDown(change), renamed.checks, before.checks).map((check) =>
        this.define(
          this.spelling.dropCheck(
            table,
            quote(check.name ?? this.spelling.nameOf(before, 'check', this.columnsIn(before, check))),
          ),
          after.name,
          'a check is taken down',
        ),
      ),
      ...original(
        renamed.uniques.filter((unique) => change.uniques.gone.includes(unique) || goesWith(unique.columns)),
        renamed.uniques,
        before.uniques,
      ).map((unique) =>
        this.define(
          this.spelling.dropUnique(table, quote(unique.name ?? this.spelling.nameOf(before, 'key', unique.columns))),
          after.name,
          'a unique goes',
        ),
      ),
      ...change.constraints.gone.flatMap((sql) => {
        const name = /^constraint\s+("(?:[^"]|"")+"|`(?:[^`]|``)+`|\S+)/i.exec(sql)?.[1];
        return name === undefined ? [] : [this.define(this.spelling.dropCheck(table, name), after.name, 'a constraint goes')];
      }),
      ...((change.primaryKey || goesWith(after.primaryKey.columns)) && before.primaryKey.columns.length > 0
        ? [
            this.define(
              this.spelling.dropPrimaryKey(table, quote(before.primaryKey.name ?? this.spelling.nameOf(before, 'pkey', []))),
              after.name,
              'the key is taken down',
            ),
          ]
        : []),
    ];
  }

  /** Checks that go, and those that speak of a column whose type changes. */
  private checksDown(change: TableChange): readonly Check[] {
    const retyped = change.changed
      .filter(({ type, collation, renamed }) => type || collation || renamed)
      .map(({ after }) => after.name.toLowerCase());
    const speaks = ({ expression }: Check) => retyped.some((name) => namesIn(expression).has(name));
    return change.renamed.checks.filter((check) => change.checks.gone.includes(check) || speaks(check));
  }

  private checksUp(change: TableChange): readonly Check[] {
    const down = this.checksDown(change);
    const again = (check: Check) =>
      down.some((one) => !change.checks.gone.includes(one) && one.name === check.name && one.expression === check.expression);
    return change.after.checks.filter((check) => change.checks.made.includes(check) || again(check));
  }

  /** A check in the words of the text. */
  private worded(table: Table, check: Check): Check {
    return this.working.stated(table).checks[table.checks.indexOf(check)] ?? check;
  }

  private columnsIn({ columns }: Table, { expression }: Check): readonly string[] {
    const spoken = namesIn(expression);
    return columns.map(({ name }) => name).filter((name) => spoken.has(name.toLowerCase()));
  }

  /** Whether a part goes with a column whose values are put in anew: the engine drops it with the column. */
  private goesWith(change: TableChange): (columns: readonly string[], sql?: string | null) => boolean {
    const anew = this.putAnew(change).map(({ after }) => after.name);
    return (columns, sql = null) =>
      anew.some((name) => columns.includes(name) || (sql !== null && namesIn(sql).has(name.toLowerCase())));
  }

  private constraintsUp(change: TableChange): Operation[] {
    const { after } = change;
    const goesWith = this.goesWith(change);
    const table = this.name(after.name);
    const { quote } = this.dialect;
    const list = (columns: readonly string[]) => columns.map(quote).join(', ');
    const named = (name: string | null) => (name === null ? '' : `constraint ${quote(name)} `);
    const add = (sql: string, what: string) => this.define(`alter table ${table} add ${sql}`, after.name, what);
    return [
      ...((change.primaryKey || goesWith(after.primaryKey.columns)) && after.primaryKey.columns.length > 0
        ? [add(`${named(after.primaryKey.name)}primary key (${list(after.primaryKey.columns)})`, 'the key')]
        : []),
      ...after.uniques
        .filter((unique) => change.uniques.made.includes(unique) || goesWith(unique.columns))
        .map((unique) => add(`${named(unique.name)}unique (${list(unique.columns)})`, 'a unique')),
      ...this.checksUp(change)
        .map((check) => this.worded(after, check))
        .map((check) => add(`${named(check.name)}check (${check.expression})`, 'a check')),
      ...change.constraints.made.map((sql) => add(sql, 'a constraint')),
      ...this.partsOf(
        after,
        {
          ...bareOf(after),
          indexes: after.indexes.filter((index) => change.indexes.made.includes(index) || goesWith(index.columns, index.sql)),
        },
        bareOf(after),
      ),
      ...(change.comment
        ? this.partsOf(after, { ...bareOf(after), comment: after.comment }, { ...bareOf(after), comment: null })
        : []),
    ];
  }

  // Tables and columns

  private renames(change: TableChange): Operation[] {
    const { before, after } = change;
    const { quote } = this.dialect;
    const columns = change.columns.flatMap((pair) =>
      pair.before === null || pair.after === null || pair.before.name === pair.after.name
        ? []
        : [
            this.define(
              `alter table ${this.name(after.name)} rename column ${quote(pair.before.name)} to ${quote(pair.after.name)}`,
              after.name,
              'the column has another name',
            ),
          ],
    );
    const table =
      tableKey(before.name) === tableKey(after.name)
        ? []
        : [
            this.define(
              this.spelling.renameTable(this.name(before.name), after.name, quote),
              after.name,
              'the table has another name',
            ),
          ];
    return [...table, ...columns, ...this.renamedConstraints(change)];
  }

  /** What was given no name has one that says its table: it is called as it would be if it were made now. */
  private renamedConstraints(change: TableChange): Operation[] {
    const { before, after, renamed } = change;
    const { quote } = this.dialect;
    const table = this.name(after.name);
    const again = (from: string, to: string) =>
      from === to
        ? []
        : [
            this.define(
              `alter table ${table} rename constraint ${quote(from)} to ${quote(to)}`,
              after.name,
              'it is called as the table is',
            ),
          ];
    const stays = <Part>(parts: { readonly gone: readonly Part[] }, all: readonly Part[]) =>
      all.filter((part) => !parts.gone.includes(part));
    return [
      ...(before.primaryKey.name === null && before.primaryKey.columns.length > 0 && !change.primaryKey
        ? again(this.spelling.nameOf(before, 'pkey', []), this.spelling.nameOf(after, 'pkey', []))
        : []),
      ...stays(change.uniques, renamed.uniques).flatMap((unique) =>
        unique.name !== null
          ? []
          : again(
              this.spelling.nameOf(before, 'key', before.uniques[renamed.uniques.indexOf(unique)]?.columns ?? []),
              this.spelling.nameOf(after, 'key', unique.columns),
            ),
      ),
    ];
  }

  private madeBare(table: Table): Operation[] {
    return this.dialect
      .createStatements({ prelude: [], tables: [madeBareOf(this.working.stated(table))], others: [] })
      .filter((sql) => /^create table/i.test(sql))
      .map((sql) => this.define(sql, table.name, 'a new table'));
  }

  /** New columns, which may be null until they have their values. */
  private columnsAdded(change: TableChange): Operation[] {
    const { after } = change;
    const shape = this.shapeOf(change);
    return change.made.flatMap(({ after: made }) => {
      if (made === null) return [];
      const shaped = shape?.columns.find(({ column: one }) => one.name === made.name);
      const isFilled =
        shaped !== undefined && !(shape !== undefined && this.isByDefault(shaped) && shaped.value.kind === 'written');
      const loose = isFilled && !isNumbered(made.type) ? { ...made, notNull: false } : made;
      return [
        this.define(`alter table ${this.name(after.name)} add column ${this.line(after, loose)}`, after.name, 'a column is new'),
      ];
    });
  }

  /** A column that may be empty in the end may be so while its rows get their values. */
  private loosened(change: TableChange): Operation[] {
    const { after } = change;
    if (!this.written.has(change.before)) return [];
    return change.changed.flatMap((one) =>
      one.notNull && !one.after.notNull && !one.type
        ? [
            this.define(
              this.spelling.loosen(this.name(after.name), one.after, this.line(after, one.after)),
              after.name,
              'a column may be empty',
            ),
          ]
        : [],
    );
  }

  /** A column as a table states it. */
  private line(table: Table, one: Column): string {
    const generated = this.working.stated(table).columns.find(({ name }) => name === one.name)?.generated ?? one.generated;
    const worded = one.generated === null ? one : { ...one, generated };
    const [line = ''] = this.dialect.columnParts({ ...table, columns: [worded], uniques: [], foreignKeys: [], indexes: [] }, [
      one.name,
    ]);
    return line;
  }

  private columnsChanged(change: TableChange): Operation[] {
    const { after } = change;
    const table = this.name(after.name);
    const shape = this.shapeOf(change);
    const { quote } = this.dialect;
    const anew = this.putAnew(change);
    return [
      ...anew.flatMap(({ after: one }) => [
        this.define(`alter table ${table} drop column ${quote(one.name)}`, after.name, 'its values stand beside it'),
        this.define(
          `alter table ${table} rename column ${quote(besideName(one.name))} to ${quote(one.name)}`,
          after.name,
          'they take its place',
        ),
      ]),
      ...change.changed.flatMap((one) => {
        if (anew.includes(one)) {
          const goesOn = isNumbered(one.after.type) ? this.dialect.countOnAfter(after.name, one.after.name) : null;
          const statements = [
            ...this.spelling.tighten(table, one.after, this.line(after, one.after)),
            ...(goesOn === null ? [] : [goesOn]),
          ];
          return statements.map((sql) => this.define(sql, after.name, 'a column is as it is to be'));
        }
        const shaped = shape?.columns.find((column_) => column_.column.name === one.after.name);
        const value =
          shaped === undefined || !one.type ? null : this.dialect.print(this.working.declared(one.after, shaped.value));
        const { renamed: _renamed, before: _before, after: _after, ...how } = one;
        if (!Object.values(how).includes(true)) return [];
        return (this.spelling.changeColumn(table, one, this.line(after, one.after), value) ?? []).map((sql) =>
          this.define(sql, after.name, 'a column changes'),
        );
      }),
      ...change.made.flatMap(({ after: made }) => {
        const shaped = shape?.columns.find(({ column: one }) => one.name === made?.name);
        if (made === null || shape === undefined || shaped === undefined || !made.notNull || isNumbered(made.type)) return [];
        if (this.isByDefault(shaped) && shaped.value.kind === 'written') return [];
        return this.spelling
          .tighten(table, made, this.line(after, made))
          .map((sql) => this.define(sql, after.name, 'a column is as it is to be'));
      }),
    ];
  }

  /** Columns whose values are put into a column beside, which takes their place. */
  private putAnew(change: TableChange): readonly ColumnChange[] {
    const shape = this.shapeOf(change);
    return change.changed.filter((one) => {
      const shaped = shape?.columns.find(({ column: of }) => of.name === one.after.name);
      if (shaped === undefined || !one.type) return false;
      const value = this.dialect.print(shaped.value);
      const isOther = tableKey(change.before.name) !== tableKey(change.after.name) && /[^\w]/.test(value);
      return (
        isOther || shape?.joins.length !== 0 || this.spelling.changeColumn(this.name(change.after.name), one, '', value) === null
      );
    });
  }

  // Rows

  private merging({ of, table, selects }: ReturnType<Working['merges']>[number]): Operation[] {
    const [first, ...more] = selects;
    if (first === undefined) return [];
    const name = this.name(table);
    const columns = first.columns.flatMap(({ as }) => as ?? []);
    const gone = columns.filter((one) => one.startsWith('gone_'));
    const stays = columns.filter((one) => one.startsWith('stays_'));
    return [
      this.define(`create table ${name} as\n${this.dialect.printQuery(first)}`, of, 'which rows become one with which'),
      this.define(
        `create unique index ${this.dialect.quote(`${table.name}_gone`)} on ${name} (${gone.join(', ')})`,
        of,
        'so that they are found',
      ),
      ...more.flatMap((select) => [
        this.rows(
          `insert into ${name} (${columns.join(', ')})\n${this.dialect.printQuery(select)}`,
          of,
          'which rows become one with which',
        ),
        this.rows(
          this.spelling.update(
            name,
            `select ${columns.join(', ')} from ${name}`,
            gone.map((one, at) => [stays[at] ?? '', one] as const),
            stays.map((one) => [one, one] as const),
          ),
          of,
          'one that another became goes on to the next',
        ),
      ]),
    ];
  }

  private keptAside({ aside, select }: ReturnType<Working['asides']>[number]): Operation[] {
    const key = asideKey(aside);
    const table = this.name(aside.aside);
    return [
      this.define(`create table ${table} as\n${this.dialect.printQuery(select)}`, aside.table, 'what goes is kept aside'),
      ...(key.length === 0
        ? []
        : [
            this.define(
              `create unique index ${this.dialect.quote(`${aside.aside.name}_key`)} on ${table} (${key.join(', ')})`,
              aside.table,
              'so that it is found',
            ),
          ]),
    ];
  }

  /** Rows that are made, so that others have something to point at: their values are kept aside, and taken from there. */
  private madeForOthers(): Operation[] {
    const kept = this.working.asides(this.placed).flatMap(({ aside }) => (aside.kind === 'made' ? [aside] : []));
    return this.working.madeRows(this.placed).flatMap(({ column: name, tableAfter }, at) => {
      const from = kept[at];
      if (from === undefined) return [];
      const into = `${this.name(tableAfter)} (${this.dialect.quote(name)})`;
      return [
        this.rows(`insert into ${into}\nselect made from ${this.name(from.aside)}`, tableAfter, 'rows that others point at'),
      ];
    });
  }

  /** Rows that are left out: those that others have to look at go last. */
  private rowsOut(): Operation[] {
    return this.shapes.toReversed().flatMap((shape) => {
      const { before, after, columns } = shape.pair;
      const key = before.primaryKey.columns.map((name) => columns.find((one) => one.before?.name === name)?.after?.name ?? name);
      const goes = going({ placed: this.placed }, shape, key.length > 0 ? key : [this.spelling.rowAddress]);
      if (goes === null) return [];
      const alias = this.dialect.quote(before.name.name);
      const where = this.dialect.print(goes);
      // Which rows those are rests on others, which may go too: they are all told before any does.
      return [this.rows(`delete from ${this.name(after.name)} ${alias} where ${where}`, after.name, 'rows that are left out')];
    });
  }

  private filled(table: Table): Operation[] {
    const rows = this.working.firstRows(table, this.placed);
    if (rows === null) return [];
    const columns = rows.columns.map(this.dialect.quote).join(', ');
    return [
      this.rows(
        `insert into ${this.name(table.name)} (${columns})\n${this.dialect.printQuery(rows.select)}`,
        table.name,
        'its first rows',
      ),
    ];
  }

  private returned(table: Table): Operation[] {
    return this.working.returning(table).map(({ columns, select }) => {
      const listed = columns.map(this.dialect.quote).join(', ');
      const isGiven = table.columns.some(({ name, type }) => columns.includes(name) && isNumbered(type));
      const given = isGiven ? this.spelling.givenNumbers : '';
      return this.rows(
        `insert into ${this.name(table.name)} (${listed})${given}\n${this.dialect.printQuery(select)}`,
        table.name,
        'rows that went come back',
      );
    });
  }

  /** The values of columns that are new, or have others: one statement for all of a table. */
  private values(change: TableChange): Operation[] {
    const shape = this.shapeOf(change);
    if (shape === undefined) return [];
    const { before, after } = change;
    const { quote } = this.dialect;
    const anew = this.putAnew(change);
    const table = this.name(after.name);
    const select = this.working.rows({ ...shape, leftOut: [], mergedAway: [] }, this.placed);
    const set = shape.columns.flatMap((one): { readonly into: string; readonly value: SqlExpression }[] => {
      const value = select.columns.find(({ as }) => as === one.column.name)?.expression ?? one.value;
      const own = change.changed.find((changed) => changed.after.name === one.column.name);
      if (one.carried || this.isByDefault(one)) return [];
      if (own !== undefined && anew.includes(own)) return [{ into: besideName(one.column.name), value }];
      return own?.type === true ? [] : [{ into: one.column.name, value }];
    });
    const beside = anew.map(({ after: one }) =>
      this.define(
        `alter table ${table} add column ${this.line(after, { ...one, name: besideName(one.name), notNull: false, default: null, generated: null, type: withoutNumbers(one.type) })}`,
        after.name,
        'its values are put beside it',
      ),
    );
    if (set.length === 0) return beside;
    const key = before.primaryKey.columns.map((name) => this.nameNow(change, name));
    const keys = key.map((name, at) => ({ expression: column(before.name.name, name), as: `key_as_it_was_${at + 1}` }));
    const wanted = {
      ...select,
      columns: [...keys, ...set.map(({ value }, at) => ({ expression: value, as: `value_${at + 1}` }))],
    };
    const printed = this.dialect.printQuery(wanted);
    return [
      ...beside,
      this.rows(
        this.spelling.update(
          table,
          printed,
          key.map((name, at) => [quote(name), `key_as_it_was_${at + 1}`] as const),
          set.map(({ into }, at) => [quote(into), `value_${at + 1}`] as const),
        ),
        after.name,
        'the values of its columns',
      ),
    ];
  }

  private nameNow({ columns }: TableChange, name: string): string {
    return columns.find(({ before }) => before?.name === name)?.after?.name ?? name;
  }

  /** The statements that one table has and another, which is the same but for parts of it, has not. */
  private partsOf(table: Table, all: Table, without: Table): Operation[] {
    const stated = (one: Table) => this.dialect.createStatements({ prelude: [], tables: [one], others: [] });
    const known = new Set(stated(without));
    return stated(all)
      .filter((sql) => !known.has(sql) && !/^create table/i.test(sql))
      .map((sql) => this.define(sql, table.name, 'what stands on the table'));
  }

  private dropped(sql: string): Operation[] {
    if (this.spelling.replacesFunctions) {
      const name = madeName(sql);
      const again = [...this.working.difference.prelude.made, ...this.working.difference.others.made].some(
        (made) => madeName(made) === name && isFunction(made),
      );
      if (isFunction(sql) && again) return [];
    }
    const drop = this.spelling.dropOf(sql);
    return drop === null ? [] : [this.define(drop, null, 'what stands beside the tables goes')];
  }
}

function isFunction(sql: string): boolean {
  return /^create\s+(?:or\s+replace\s+)?(?:function|procedure)\b/i.test(sql);
}

/** The name of what a statement makes, behind the word for it. */
function madeName(sql: string): string {
  const tokens = sqlTokens(sql.slice(0, 400));
  const at = tokens.findIndex(({ text }) => /^(?:function|procedure|view|type|domain|sequence)$/i.test(text)) + 1;
  const name = tokens[at + 1]?.text === '.' ? tokens[at + 2] : tokens[at];
  return name === undefined ? '' : sqlName(name);
}

function besideName(name: string): string {
  return `${name}_to_be`;
}

function withoutNumbers(type: string): string {
  return type.replace(/ (?:generated (?:always|by default) as identity|auto_increment)\b.*$/i, '');
}

/** A table that nothing stands on. */
function bareOf(table: Table): Table {
  return { ...table, indexes: [], triggers: [], foreignKeys: [], constraints: [] };
}

/** A new table before it has its rows: what needs other tables, or looks at rows, comes later. */
function madeBareOf(table: Table): Table {
  return { ...table, indexes: [], triggers: [], foreignKeys: [] };
}
