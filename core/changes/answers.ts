import type { DialectName } from '../notation/index.js';
import type { TableName } from '../sql/index.js';
import { type HandStep, wrongByHand } from './by-hand.js';
import { columnKey, type FormerColumn, tableKey } from './pairs.js';

/** What stands for one value, where a new type, list or condition does not admit it; null for nothing. */
export interface MappedValue {
  readonly from: string;
  readonly to: string | null;
}

/** Which of several rows that are one stays. */
export interface Keeping {
  readonly table: TableName;
  readonly columns: readonly string[];
  /** The keys of rows that were picked one by one: they stay, whatever the order says. Each part of a key stands as text. */
  readonly picked: readonly (readonly string[])[];
  /** Where none was picked, the row that comes first in this order stays; where it says nothing either, they stay a question. */
  readonly order: readonly { readonly column: string; readonly descending: boolean }[];
}

/** How a column of texts becomes a key: by which of the other's columns its value is found, and what becomes of one that is not. */
export interface Matching {
  readonly table: TableName;
  /** The key's column. */
  readonly column: string;
  /** Over the row as it was. */
  readonly by: string;
  /** Over a row of the other table. */
  readonly equals: string;
  readonly unmatched: 'stop' | 'empty' | 'make';
}

/** What a person said to the questions of a plan. They speak of tables and columns as the database has them. */
export interface Answers {
  readonly tables: ReadonlyMap<string, TableName | 'new'>;
  readonly columns: ReadonlyMap<string, FormerColumn | 'new'>;
  /** The value of a column where there is none, as an expression over the row as it was. */
  readonly values: ReadonlyMap<string, string>;
  readonly mapped: ReadonlyMap<string, readonly MappedValue[]>;
  /** Columns whose texts are cut to their length. */
  readonly cut: ReadonlySet<string>;
  /** Columns of which a value that does not fit, or points at nothing, is left empty. */
  readonly emptied: ReadonlySet<string>;
  /** Columns, or constraints by their names, whose rows are left out where they do not fit. */
  readonly leftOut: ReadonlySet<string>;
  readonly keeping: readonly Keeping[];
  /** Keys for whose values that point at nothing a row is made. */
  readonly made: ReadonlySet<string>;
  readonly matching: ReadonlyMap<string, Matching>;
  /** Statements that a person wrote, to stand among those of the plan. */
  readonly byHand: readonly HandStep[];
}

export const NO_ANSWERS: Answers = {
  tables: new Map(),
  columns: new Map(),
  values: new Map(),
  mapped: new Map(),
  cut: new Set(),
  emptied: new Set(),
  leftOut: new Set(),
  keeping: [],
  made: new Set(),
  matching: new Map(),
  byHand: [],
};

/** A line that says nothing that is known, with why. */
export interface AnswerFault {
  readonly line: number;
  readonly message: string;
}

/** Answers while they are read. */
interface Draft {
  tables: Map<string, TableName | 'new'>;
  columns: Map<string, FormerColumn | 'new'>;
  values: Map<string, string>;
  mapped: Map<string, readonly MappedValue[]>;
  cut: Set<string>;
  emptied: Set<string>;
  leftOut: Set<string>;
  keeping: Keeping[];
  made: Set<string>;
  matching: Map<string, Matching>;
  byHand: HandStep[];
}

const NAME = String.raw`(?:"(?:[^"]|"")+"|[A-Za-z_][\w$]*)`;
const PLACE = String.raw`${NAME}(?:\.${NAME}){0,2}`;
const TEXT = "'(?:[^']|'')*'";
/** A part of a key, and the key of a row: a part, or several in brackets. */
const KEY_PART = String.raw`(?:-?\d+|${TEXT})`;
const KEY = String.raw`(?:${KEY_PART}|\(${KEY_PART}(?:, ${KEY_PART})+\))`;
const ORDER = `${NAME}(?: desc)?(?:, ${NAME}(?: desc)?)*`;

/** One form that a line can have: by its first words, and what it puts among the answers. */
interface Form {
  readonly words: string;
  readonly pattern: RegExp;
  readonly example: string;
  put(draft: Draft, parts: readonly string[]): void;
}

const FORMS: readonly Form[] = [
  {
    words: 'table',
    pattern: new RegExp(`^table (${PLACE}) (?:(is new)|was (${PLACE}))$`),
    example: 'table players was members',
    put: ({ tables }, [table = '', isNew, was = '']) => tables.set(tableKey(tableOf(table)), isNew ? 'new' : tableOf(was)),
  },
  {
    words: 'column',
    pattern: new RegExp(`^column (${PLACE}) (?:(is new)|was (${PLACE}))$`),
    example: 'column players.full_name was name',
    put: ({ columns }, [place = '', isNew, was = '']) => {
      const { table, column } = columnOf(place);
      const former = namesOf(was);
      columns.set(
        columnKey(table, column),
        isNew ? 'new' : former.length === 1 ? { table, column: former[0] ?? '' } : columnOf(was),
      );
    },
  },
  {
    words: 'value',
    pattern: new RegExp(`^value (${PLACE}) = (.+)$`),
    example: "value players.town = 'Ferren'",
    put: ({ values }, [place = '', expression = '']) => values.set(keyOf(place), expression),
  },
  {
    words: 'map',
    pattern: new RegExp(`^map (${PLACE}) (${TEXT} to (?:${TEXT}|null)(?:, ${TEXT} to (?:${TEXT}|null))*)$`),
    example: "map players.level 'beginner' to 'first', 'other' to null",
    put: ({ mapped }, [place = '', pairs = '']) => {
      const each = Array.from(pairs.matchAll(new RegExp(`(${TEXT}) to (${TEXT}|null)`, 'g')), ([, from = '', to = '']) => ({
        from: textOf(from),
        to: to === 'null' ? null : textOf(to),
      }));
      mapped.set(keyOf(place), [...(mapped.get(keyOf(place)) ?? []), ...each]);
    },
  },
  {
    words: 'cut',
    pattern: new RegExp(`^cut (${PLACE})$`),
    example: 'cut players.name',
    put: ({ cut }, [place = '']) => cut.add(keyOf(place)),
  },
  {
    words: 'empty',
    pattern: new RegExp(`^empty (${PLACE})$`),
    example: 'empty loans.player_id',
    put: ({ emptied }, [place = '']) => emptied.add(keyOf(place)),
  },
  {
    words: 'leave out',
    pattern: new RegExp(`^leave out (${PLACE})$`),
    example: 'leave out players.town',
    put: ({ leftOut }, [place = '']) => leftOut.add(keyOf(place)),
  },
  {
    words: 'make',
    pattern: new RegExp(`^make (${PLACE})$`),
    example: 'make loans.player_id',
    put: ({ made }, [place = '']) => made.add(keyOf(place)),
  },
  {
    words: 'keep',
    pattern: new RegExp(
      `^keep (${PLACE}) \\((${NAME}(?:, ${NAME})*)\\)(?= rows | by )(?: rows (${KEY}(?:, ${KEY})*))?(?: by (${ORDER}))?$`,
    ),
    example: 'keep players (email) by joined_on desc, or: keep players (email) rows 3, 17',
    put: ({ keeping }, [table = '', columns = '', picked = '', order = '']) =>
      keep(keeping, {
        table: tableOf(table),
        columns: listOf(columns),
        picked: Array.from(picked.matchAll(new RegExp(KEY, 'g')), ([key]) =>
          Array.from(key.matchAll(new RegExp(KEY_PART, 'g')), ([part]) => (part.startsWith("'") ? textOf(part) : part)),
        ),
        order: Array.from(order.matchAll(new RegExp(`(${NAME})( desc)?`, 'g')), ([, name = '', descending]) => ({
          column: nameOf(name),
          descending: descending !== undefined,
        })),
      }),
  },
  {
    words: 'match',
    pattern: new RegExp(`^match (${PLACE}) by (.+) = (.+?)(?:, (make|empty) the others)?$`),
    example: 'match players.branch_id by town = name, make the others',
    put: ({ matching }, [place = '', by = '', equals = '', unmatched]) => {
      const { table, column } = columnOf(place);
      matching.set(keyOf(place), {
        table,
        column,
        by,
        equals,
        unmatched: unmatched === 'make' || unmatched === 'empty' ? unmatched : 'stop',
      });
    },
  },
];

/**
 * Reads answers as a person writes them, a line each; `--` begins a comment. What no line can mean is told with its line.
 */
export function readAnswers(text: string): { readonly answers: Answers; readonly faults: readonly AnswerFault[] } {
  const draft: Draft = {
    tables: new Map(),
    columns: new Map(),
    values: new Map(),
    mapped: new Map(),
    cut: new Set(),
    emptied: new Set(),
    leftOut: new Set(),
    keeping: [],
    made: new Set(),
    matching: new Map(),
    byHand: [],
  };
  const faults: AnswerFault[] = [];
  const lines = text.split('\n');
  let until = 0;
  for (const [at, written] of lines.entries()) {
    if (at < until) continue;
    if (/^by\s+hand\b/.test(written)) {
      const read = readHandStep(lines, at);
      until = read.until;
      if ('step' in read) draft.byHand.push(read.step);
      else faults.push({ line: read.line + 1, message: read.message });
      continue;
    }
    const line = withoutComment(written).trim().replace(/\s+/g, ' ');
    if (line === '') continue;
    const form = FORMS.find(({ words }) => line === words || line.startsWith(`${words} `));
    const parts = form?.pattern.exec(line);
    if (form === undefined)
      faults.push({
        line: at + 1,
        message: `An answer begins with ${[...FORMS.map(({ words }) => `“${words}”`), '“by hand”'].join(', ')}.`,
      });
    else if (parts === null || parts === undefined) faults.push({ line: at + 1, message: `This is written as: ${form.example}` });
    else form.put(draft, parts.slice(1));
  }
  return { answers: draft, faults };
}

/** Rows that are picked by lines of their own are one answer with the order that serves for the others. */
function keep(keeping: Keeping[], said: Keeping): void {
  const same = ({ table, columns }: Keeping) =>
    tableKey(table) === tableKey(said.table) && columns.join('\0') === said.columns.join('\0');
  const at = keeping.findIndex(same);
  const before = keeping[at];
  if (before === undefined) keeping.push(said);
  else
    keeping[at] = {
      ...before,
      picked: [...before.picked, ...said.picked],
      order: before.order.length > 0 ? before.order : said.order,
    };
}

/** The line that keeps a row among those that it is alike with. */
export function writtenPick(table: TableName, columns: readonly string[], key: readonly string[]): string {
  const listed = columns.map((name) => writtenPlace({ schema: null, name })).join(', ');
  const parts = key.map((part) => (/^-?\d+$/.test(part) ? part : `'${part.replaceAll("'", "''")}'`));
  return `keep ${writtenPlace(table)} (${listed}) rows ${parts.length === 1 ? parts[0] : `(${parts.join(', ')})`}`;
}

const HAND_STEP = new RegExp(
  `^by hand (before|after|instead of) (?:(plan)|(${PLACE}))(?:: (.+))?, on (sqlite|postgres|mariadb)$`,
);
const HAND_EXAMPLE = 'by hand before players: its rows, on sqlite';

/** Reads a step by hand: its line, its SQL indented below, and what takes it back. */
function readHandStep(
  lines: readonly string[],
  from: number,
):
  | { readonly until: number; readonly step: HandStep }
  | { readonly until: number; readonly line: number; readonly message: string } {
  const [sql, end] = indentedAfter(lines, from);
  const isOver = /^no\s+way\s+back$/.test((lines[end] ?? '').trimEnd());
  const hasBack = /^back$/.test((lines[end] ?? '').trimEnd());
  const [back, until] = hasBack ? indentedAfter(lines, end) : ['', isOver ? end + 1 : end];
  const parts = HAND_STEP.exec((lines[from] ?? '').trim().replace(/\s+/g, ' '));
  if (parts === null) return { until, line: from, message: `This is written as: ${HAND_EXAMPLE}` };
  if (!isOver && !hasBack)
    return {
      until,
      line: end - 1,
      message: 'A step by hand ends with “back”, and what takes it back indented below, or with “no way back”.',
    };
  const [, where, plan, table, what, on] = parts;
  if (where === 'instead of' && what === undefined)
    return {
      until,
      line: from,
      message: `It stands in the place of one statement, which is named: ${HAND_EXAMPLE.replace('before', 'instead of')}`,
    };
  const wrong = wrongByHand(sql);
  if (wrong !== null) return { until, line: from, message: wrong };
  const wrongBack = hasBack ? wrongByHand(back) : null;
  if (wrongBack !== null) return { until, line: end, message: wrongBack };
  return {
    until,
    step: {
      on: on as DialectName,
      where: where as HandStep['where'],
      table: plan === undefined ? writtenTable(table ?? '') : null,
      what: what ?? null,
      sql,
      back: hasBack ? back : null,
    },
  };
}

/** The lines below one that are indented, or empty, without their indent; and the line that follows them. */
function indentedAfter(lines: readonly string[], from: number): readonly [string, number] {
  let end = from + 1;
  while (end < lines.length && /^(?:\s|$)/.test(lines[end] ?? '')) end += 1;
  const own = lines.slice(from + 1, end);
  const indent = Math.min(...own.filter((line) => line.trim() !== '').map((line) => line.length - line.trimStart().length));
  return [
    own
      .map((line) => line.slice(indent))
      .join('\n')
      .trim(),
    end,
  ];
}

function writtenTable(written: string): string {
  return writtenPlace(tableOf(written));
}

/** A line without the comment at its end; two dashes in a text or a name begin none. */
function withoutComment(line: string): string {
  const [found] = /^(?:'(?:[^']|'')*'|"(?:[^"]|"")*"|(?!--).)*/.exec(line) ?? [''];
  return found;
}

function keyOf(place: string): string {
  const { table, column } = columnOf(place);
  return columnKey(table, column);
}

function columnOf(place: string): FormerColumn {
  const names = namesOf(place);
  const column = names.at(-1) ?? '';
  return { table: { schema: names.length > 2 ? (names[0] ?? null) : null, name: names.at(-2) ?? '' }, column };
}

function tableOf(place: string): TableName {
  const names = namesOf(place);
  return { schema: names.length > 1 ? (names[0] ?? null) : null, name: names.at(-1) ?? '' };
}

function namesOf(place: string): string[] {
  return Array.from(place.matchAll(new RegExp(NAME, 'g')), ([name]) => nameOf(name));
}

function nameOf(written: string): string {
  return written.startsWith('"') ? written.slice(1, -1).replaceAll('""', '"') : written;
}

function listOf(names: string): string[] {
  return names.split(', ').map(nameOf);
}

function textOf(written: string): string {
  return written.slice(1, -1).replaceAll("''", "'");
}

/** A column as answers name it. */
export function writtenPlace(table: TableName, column: string | null = null): string {
  const bare = (name: string) => (/^[A-Za-z_][\w$]*$/.test(name) ? name : `"${name.replaceAll('"', '""')}"`);
  return [table.schema, table.name, column].flatMap((name) => (name === null ? [] : [bare(name)])).join('.');
}
