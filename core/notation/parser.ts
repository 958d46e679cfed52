import { readCommandLine, seesCommandLine } from './command-lines.js';
import { type Body, DECLARATION_WORDS, declarations, readQueryLines } from './declarations.js';
import type { Finding, Span } from './finding.js';
import { lex, TokenKind, type Tokens } from './lexer.js';
import { type Line, readLines } from './lines.js';
import { nearest } from './nearest.js';
import { inLines } from './one-line.js';
import { Reader } from './reader.js';
import type { ActorSyntax, ColouredToken, CommandLine, Declaration, ParameterSyntax, QueryLine, TokenClass } from './syntax.js';

/** The syntax tree of a text: its declarations in order, its syntax errors, and the colour of each token. */
export interface Syntax {
  readonly text: string;
  readonly declarations: readonly Declaration[];
  readonly findings: readonly Finding[];
  readonly colours: readonly ColouredToken[];
}

/** A query typed without a head, as on the try line. */
export interface QueryText {
  readonly lines: readonly QueryLine[];
  readonly findings: readonly Finding[];
  readonly colours: readonly ColouredToken[];
}

/**
 * Reads a text in the kin notation. Never throws. A line that cannot be read costs that line only (or its
 * declaration's head), and is told in the findings.
 */
export function parse(text: string): Syntax {
  const reading = new Reading(text);
  const found: Declaration[] = [];
  for (const group of reading.groups()) {
    const reader = reading.readerOf(group.line);
    reader.takes(reader.word());
    const read = declarations[group.keyword];
    if (read === undefined) continue;
    const declaration = read(reader, group);
    if (declaration.kind === 'tree' || !('name' in declaration) || declaration.name.text !== '') found.push(declaration);
  }
  return {
    text,
    declarations: found,
    findings: reading.findings,
    // Asked for by an editor alone, and as much work as reading is.
    get colours() {
      return reading.colours();
    },
  };
}

/** Reads the body of a query that stands alone: `from` and the other lines at column one, or all on one line with `;` between. */
export function parseQuery(text: string): QueryText {
  const reading = new Reading(inLines(text));
  const all = { start: 0, end: text.length };
  const lines = readQueryLines(reading.lines, {
    line: { indent: 0, tokens: [], children: [] },
    span: all,
    head: all,
    readerOf: (line) => reading.readerOf(line),
  });
  return { lines, findings: reading.findings, colours: reading.colours() };
}

/** Commands as they stand on the try line, or in an argument of the command line. */
export interface CommandsText {
  readonly lines: readonly CommandLine[];
  readonly findings: readonly Finding[];
  readonly colours: readonly ColouredToken[];
}

/** Reads commands: a line for each at column one, or all on one line with `;` between. */
export function parseCommands(text: string): CommandsText {
  const reading = new Reading(inLines(text));
  const lines = reading.lines.map((line) => {
    const reader = reading.readerOf(line);
    const read = readCommandLine(reader);
    if (!reader.done) reader.fail(`Expected the end of the line, found ${reader.found()}.`);
    for (const below of line.children)
      reading.readerOf(below).fail('Nothing stands below a command. A line that goes on ends in a comma, or stands in brackets.');
    return read;
  });
  return { lines, findings: reading.findings, colours: reading.colours() };
}

/** Whether a text begins with a command, rather than with a line of a query. */
export function isCommands(text: string): boolean {
  const reading = new Reading(inLines(text));
  const [first] = reading.lines;
  return first !== undefined && seesCommandLine(reading.readerOf(first));
}

/**
 * Reads parameters as they stand in the brackets behind a query's name: `branch Branch, since date`. Null where they
 * cannot be read.
 */
export function parseParameters(text: string): readonly ParameterSyntax[] | null {
  if (text.trim() === '') return [];
  const { declarations: found, findings } = parse(`query typed(${text.replaceAll('\n', ' ')})`);
  const [query] = found;
  return query?.kind === 'query' && findings.length === 0 ? query.parameters : null;
}

/** Reads on whose behalf something is done: `nobody`, `system` or a row. */
export function parseActor(text: string): { readonly actor: ActorSyntax | null; readonly findings: readonly Finding[] } {
  const { lines, findings } = parseCommands(`as ${text.replaceAll(/[\n;]/g, ' ')}`);
  const [line] = lines;
  return { actor: line?.kind === 'as' && findings.length === 0 ? line.actor : null, findings };
}

type Group = Body & { readonly keyword: string };

class Reading {
  readonly findings: Finding[] = [];
  readonly lines: readonly Line[];
  private readonly tokens: Tokens;
  private readonly classes: (TokenClass | undefined)[];
  private readonly grown = new WeakMap<readonly Line[], Line[]>();

  constructor(private readonly text: string) {
    this.tokens = lex(text);
    this.lines = readLines(this.tokens, this.findings);
    this.classes = new Array<TokenClass | undefined>(this.tokens.count);
  }

  readerOf(line: Line): Reader {
    return new Reader(this.tokens, line.tokens, this.classes, this.findings);
  }

  /** The lines at column one that begin a declaration. A line that does not costs itself; what is below it goes on above. */
  groups(): Group[] {
    const groups: Group[] = [];
    for (const line of this.lines) {
      const reader = this.readerOf(line);
      const word = reader.word();
      const meant = reader.kind() === TokenKind.word ? this.keyword(word) : null;
      const spanOfWord = reader.here;
      if (meant === null || line.indent > 0) {
        const before = groups.at(-1);
        reader.fail(
          line.indent > 0
            ? 'This line is indented, but no declaration stands above it.'
            : `Expected a declaration (${DECLARATION_WORDS.join(', ')}), found ${reader.found()}.`,
        );
        if (before !== undefined) groups[groups.length - 1] = this.extended(before, line);
        continue;
      }
      if (meant !== word) {
        this.findings.push({
          weight: 'error',
          code: 'misspelt-keyword',
          message: `There is no declaration ${word}. Read as ${meant}.`,
          span: spanOfWord,
          fixes: [{ title: `Write ${meant}`, edits: [{ span: spanOfWord, text: meant }] }],
        });
      }
      groups.push(this.group(meant, line));
    }
    return groups;
  }

  colours(): ColouredToken[] {
    const { count, kinds, starts, ends } = this.tokens;
    const colours: ColouredToken[] = [];
    for (let token = 0; token < count; token++) {
      if (kinds[token] === TokenKind.lineBreak) continue;
      const span = { start: starts[token] ?? 0, end: ends[token] ?? 0 };
      colours.push({ span, class: this.classes[token] ?? lexicalClass(kinds[token] ?? 0) });
    }
    return colours;
  }

  private keyword(word: string): string | null {
    return Object.hasOwn(declarations, word) ? word : nearest(word, DECLARATION_WORDS);
  }

  private group(keyword: string, line: Line): Group {
    return {
      keyword,
      line,
      head: this.spanOf(line.tokens),
      span: { start: this.spanOf(line.tokens).start, end: this.endOf(line) },
      readerOf: (inner) => this.readerOf(inner),
    };
  }

  /** The lines below a stray one join those of the group before; the first time in a list of its own, which then grows. */
  private extended(group: Group, stray: Line): Group {
    const grown = this.grown.get(group.line.children) ?? [...group.line.children];
    for (const child of stray.children) grown.push(child);
    this.grown.set(grown, grown);
    const line = { ...group.line, children: grown };
    return { ...group, line, span: { start: group.span.start, end: Math.max(group.span.end, this.endOf(line)) } };
  }

  private spanOf(tokens: readonly number[]): Span {
    const first = tokens[0];
    const last = tokens.at(-1);
    if (first === undefined || last === undefined) return { start: 0, end: this.text.length };
    return { start: this.tokens.starts[first] ?? 0, end: this.tokens.ends[last] ?? 0 };
  }

  private endOf(line: Line): number {
    const last = line.children.at(-1);
    return last === undefined ? this.spanOf(line.tokens).end : this.endOf(last);
  }
}

function lexicalClass(kind: number): TokenClass {
  switch (kind) {
    case TokenKind.comment:
      return 'comment';
    case TokenKind.text:
    case TokenKind.unclosed:
      return 'text';
    case TokenKind.number:
      return 'number';
    case TokenKind.capital:
      return 'entity';
    default:
      return 'plain';
  }
}
