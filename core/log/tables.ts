/** What a statement reads rows by: its tables by their names in it, and the columns that are compared with a value. */
export interface Asked {
  readonly tables: ReadonlyMap<string, string>;
  /** The table that it reads first. */
  readonly from: string;
  readonly equal: readonly { readonly table: string; readonly column: string }[];
}

const NAME = '(?:"[^"]+"|`[^`]+`|[\\w$]+)';
const TABLE = new RegExp(
  `\\b(?:from|join) (?:${NAME}\\.)?(${NAME})(?: (?:as )?(?!on\\b|where\\b|join\\b|left\\b|inner\\b|order\\b|group\\b|limit\\b|for\\b)(${NAME}))?`,
  'gi',
);
const EQUAL = new RegExp(`(?:(${NAME})\\.)?(${NAME}) (?:= (?:any ?)?\\(?\\?|in \\(\\?)`, 'gi');

/** Reads the shape of a select. Null for any other statement, and for one that holds another select. */
export function askedBy(shape: string): Asked | null {
  if (!/^select\b/i.test(shape) || /\bselect\b/i.test(shape.slice(6))) return null;
  const tables = new Map<string, string>();
  let from: string | null = null;
  for (const [, table = '', alias] of shape.matchAll(TABLE)) {
    const name = bare(table);
    from ??= name;
    tables.set(alias === undefined ? name : bare(alias), name);
  }
  const where = /\bwhere (.*?)(?: order by| group by| limit| for |$)/i.exec(shape)?.[1] ?? '';
  if (from === null || / or /i.test(where)) return null;
  const first = from;
  const equal = Array.from(where.matchAll(EQUAL), ([, source, column = '']) => ({
    table: source === undefined ? first : (tables.get(bare(source)) ?? bare(source)),
    column: bare(column),
  }));
  return { tables, from: first, equal };
}

/** A name without its quotes; unquoted ones are taken for small. */
function bare(name: string): string {
  return /^["`]/.test(name) ? name.slice(1, -1) : name.toLowerCase();
}
