/** A stretch of a text: offsets in UTF-16 code units, `end` exclusive. */
export interface Span {
  readonly start: number;
  readonly end: number;
}

/** One replacement in a text. Several edits of one fix never overlap. */
export interface Edit {
  readonly span: Span;
  readonly text: string;
}

/** A way out of a finding that can be applied as it stands. */
export interface Fix {
  readonly title: string;
  readonly edits: readonly Edit[];
}

/** *error*: the thing is left out. *warning*: it works, but hardly as meant. *note*: worth knowing. */
export type Weight = 'error' | 'warning' | 'note';

/** Something a person should know about their text: the thing, the place, and a way out. */
export interface Finding {
  readonly weight: Weight;
  /** A stable, kebab-case name of the rule, for filters and tests. */
  readonly code: string;
  readonly message: string;
  readonly span: Span;
  readonly fixes: readonly Fix[];
}

/** The 1-based line and column of an offset, as editors and compilers count them. */
export interface Position {
  readonly line: number;
  readonly column: number;
}

/** Gives a function from offset to position for one text; the line starts are found once. */
export function positions(text: string): (offset: number) => Position {
  const starts = [0];
  for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) starts.push(at + 1);
  return (offset) => {
    let low = 0;
    let high = starts.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if ((starts[middle] ?? 0) <= offset) low = middle;
      else high = middle - 1;
    }
    return { line: low + 1, column: offset - (starts[low] ?? 0) + 1 };
  };
}
