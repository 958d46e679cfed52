/** One statement of a log. */
export interface LoggedStatement {
  readonly sql: string;
  /** How long it took; null where the log does not say. */
  readonly milliseconds: number | null;
}

/** The words that a statement begins with. */
const BEGINS = /^(?:select|with|insert|update|delete|replace)\b/i;

/** PostgreSQL, 20.8 Error Reporting and Logging: `LOG:  duration: 0.1 ms  execute name: select …`. */
const POSTGRES = /\bLOG: {2}(?:duration: ([\d.]+) ms(?: {2})?)?(?:(statement|execute|parse|bind)[^:]*: ([\s\S]*))?$/;
/** MariaDB, “General Query Log”: `261129  8:00:00      12 Query     select …`; the moment stands where it changes. */
const GENERAL =
  /^(?:\d{6}\s+\d{1,2}:\d\d:\d\d)?\s+\d+ (Query|Execute|Prepare|Connect|Quit|Init DB|Close stmt|Statistics)\b\t?\s*([\s\S]*)$/;
/** MariaDB, “Slow Query Log Overview”: the time in seconds, in the comment before the statement. */
const SLOW = /^# Query_time: ([\d.]+)/;
/** A time beside a plain statement, as libraries write it: `(1.2ms)`, `[0.8 ms]`, `-- 3 ms`. */
const BESIDE = /[([]?\b([\d.]+) ?ms\b[)\]]?/;

/**
 * Takes the lines of a log one by one, and gives a statement as soon as it is whole: plain SQL, a line each, or what the logs of
 * PostgreSQL and MariaDB write. Lines that are no statement give nothing.
 */
export class LogLines {
  private open: { sql: string; milliseconds: number | null; readonly goesOn: RegExp } | null = null;
  /** The time that stands before the statement that it is of. */
  private ahead: number | null = null;

  /** The statement that the line before it ended; null where none ended there. */
  next(line: string): LoggedStatement | null {
    const slow = SLOW.exec(line);
    if (slow !== null) {
      const ended = this.end();
      this.ahead = Number(slow[1]) * 1000;
      return ended;
    }
    if (line.startsWith('#') || /^set timestamp=/i.test(line)) return null;
    const postgres = POSTGRES.exec(line);
    if (postgres !== null) {
      const [, duration, step, sql] = postgres;
      // Where the time comes on a line of its own, it is that of the statement before.
      if (sql === undefined && duration !== undefined && this.open !== null) this.open.milliseconds = Number(duration);
      if (sql === undefined) return null;
      // A statement that is prepared is told when it is carried out.
      if (step === 'parse' || step === 'bind') return this.end();
      return this.begin(sql, duration === undefined ? null : Number(duration));
    }
    const general = GENERAL.exec(line);
    if (general !== null) {
      const [, command, sql = ''] = general;
      return command === 'Query' || command === 'Execute' ? this.begin(sql, null) : this.end();
    }
    if (/^(?:\d{4}-\d\d-\d\d .*\b)?(?:DETAIL|HINT|CONTEXT|STATEMENT|ERROR|FATAL|WARNING|NOTICE): /.test(line)) return this.end();
    const bare = line.replace(BESIDE, '').replace(/^[\s\-:>|]+/, '');
    if (BEGINS.test(bare) && !/^\s{2,}|^\t/.test(line)) {
      const beside = BESIDE.exec(line);
      const inServerLog = this.ahead !== null;
      return this.begin(bare, beside === null ? this.ahead : Number(beside[1]), inServerLog ? ANY : INDENTED);
    }
    if (this.open?.goesOn.test(line) && this.open.sql.length < LONGEST) this.open.sql += `\n${line.trim()}`;
    return null;
  }

  /** The last statement, once there are no more lines. */
  end(): LoggedStatement | null {
    const { open } = this;
    this.open = null;
    return open === null || !BEGINS.test(open.sql)
      ? null
      : { sql: open.sql.replace(/;\s*$/, ''), milliseconds: open.milliseconds };
  }

  private begin(sql: string, milliseconds: number | null, goesOn = ANY): LoggedStatement | null {
    const before = this.end();
    this.open = { sql: sql.trim().slice(0, LONGEST), milliseconds, goesOn };
    this.ahead = null;
    return before;
  }
}

/** A line that goes on with a statement: in a server's log any that is not empty, in plain SQL one that is indented. */
const ANY = /\S/;
const INDENTED = /^\s+\S/;

/** A statement is looked at so far: the shape of a longer one is told by its beginning. */
const LONGEST = 20_000;
