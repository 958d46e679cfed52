import type { Finding, Span } from './finding.js';
import { TokenKind, type Tokens, unquote } from './lexer.js';
import { nearest } from './nearest.js';
import type { Name, Text, TokenClass } from './syntax.js';

/**
 * Reads the tokens of one line from left to right.
 *
 * The first thing that does not fit is recorded as a finding and the reader is *spent*: from then on it sees only
 * the end of the line and answers with empty values. So a parser needs no second path for errors, and an error
 * cannot leave its line.
 */
export class Reader {
  spent = false;
  private at = 0;

  constructor(
    private readonly source: Tokens,
    private readonly line: readonly number[],
    private readonly classes: (TokenClass | undefined)[],
    private readonly findings: Finding[],
  ) {}

  /** The token `ahead` places on, as written; empty at the end of the line. */
  word(ahead = 0): string {
    const token = this.token(ahead);
    return token === undefined ? '' : this.source.text.slice(this.source.starts[token], this.source.ends[token]);
  }

  kind(ahead = 0): number {
    const token = this.token(ahead);
    return token === undefined ? TokenKind.end : (this.source.kinds[token] ?? TokenKind.end);
  }

  get done(): boolean {
    return this.token(0) === undefined;
  }

  /** The place of the next token; at the end of the line, the place behind the last one. */
  get here(): Span {
    const token = this.line[this.at];
    if (token !== undefined) return this.spanOf(token);
    const last = this.line.at(-1);
    const end = last === undefined ? 0 : (this.source.ends[last] ?? 0);
    return { start: end, end };
  }

  /** From the given place to the token read last. */
  since(from: Span): Span {
    const last = this.line[Math.max(0, this.at - 1)];
    return { start: from.start, end: last === undefined ? from.end : (this.source.ends[last] ?? from.end) };
  }

  /** What is written at a place, with its blanks as one each. */
  written({ start, end }: Span): string {
    return this.source.text.slice(start, end).replace(/\s+/g, ' ');
  }

  /** Records what does not fit and spends the reader. Only the first call of a line counts. */
  fail(message: string, span: Span = this.here): void {
    if (this.spent) return;
    this.spent = true;
    this.findings.push({ weight: 'error', code: 'syntax', message, span, fixes: [] });
  }

  /** Fails where one of these words was expected: the nearest is named, and offered as a fix. */
  failAmong(words: readonly string[], message: string, meant: string | null = nearest(this.word(), words)): void {
    if (this.spent) return;
    if (meant === null || this.kind() === TokenKind.text) {
      this.fail(message);
      return;
    }
    this.spent = true;
    const span = this.here;
    const fixes = [{ title: `Write ${meant}`, edits: [{ span, text: meant }] }];
    this.findings.push({ weight: 'error', code: 'syntax', message: `${message} Did you mean ${meant}?`, span, fixes });
  }

  /** Is the next token this symbol or unquoted word? */
  sees(word: string, ahead = 0): boolean {
    const token = this.token(ahead);
    if (token === undefined) return false;
    const { kinds, starts, ends, text } = this.source;
    const kind = kinds[token];
    if (kind !== TokenKind.word && kind !== TokenKind.symbol && kind !== TokenKind.capital) return false;
    // Nothing is cut out of the text for it: each line is asked for dozens of words.
    const start = starts[token] ?? 0;
    return (ends[token] ?? 0) - start === word.length && text.startsWith(word, start);
  }

  seesWords(...words: readonly string[]): boolean {
    for (let index = 0; index < words.length; index++) if (!this.sees(words[index] ?? '', index)) return false;
    return true;
  }

  seesName(ahead = 0): boolean {
    const kind = this.kind(ahead);
    return kind === TokenKind.word || kind === TokenKind.quoted;
  }

  seesEntity(ahead = 0): boolean {
    const kind = this.kind(ahead);
    return kind === TokenKind.capital || kind === TokenKind.quoted;
  }

  /** Takes the words if all stand here, and tells whether it did. */
  takes(...words: readonly string[]): boolean {
    if (this.spent || !this.seesWords(...words)) return false;
    for (const word of words) this.advance(/^[a-z]/i.test(word) ? 'keyword' : 'operator');
    return true;
  }

  /** Takes the words or fails, saying what was expected in this place. */
  expects(word: string, place: string): void {
    if (!this.takes(word)) this.fail(`Expected ${quoted(word)} ${place}, found ${this.found()}.`);
  }

  /** A name that does not start with a capital. */
  name(what: string, tokenClass: TokenClass = 'name'): Name {
    if (!this.seesName()) {
      const hint =
        this.kind() === TokenKind.capital ? ' Names of this sort start with a small letter; put any other in double quotes.' : '';
      this.fail(`Expected ${what}, found ${this.found()}.${hint}`);
    }
    return this.takeName(tokenClass);
  }

  /** The name of an entity, mixin or choice. */
  entity(what: string): Name {
    if (!this.seesEntity()) {
      const hint = this.kind() === TokenKind.word ? ' Entities, mixins and choices start with a capital.' : '';
      this.fail(`Expected ${what}, found ${this.found()}.${hint}`);
    }
    return this.takeName('entity');
  }

  text(what: string): Text {
    const span = this.here;
    if (this.kind() !== TokenKind.text) this.fail(`Expected ${what} in single quotes, found ${this.found()}.`);
    return { value: this.spent ? '' : unquote(this.advance('text')), span };
  }

  number(what: string): string {
    if (this.kind() !== TokenKind.number) this.fail(`Expected ${what}, found ${this.found()}.`);
    return this.spent ? '0' : this.advance('number');
  }

  /** A number without a fraction that fits where a count is meant. */
  count(what: string): number {
    const span = this.here;
    const digits = this.number(what);
    const value = Number(digits);
    if (!Number.isSafeInteger(value) || digits.includes('.')) this.fail(`${digits} is not a whole number for ${what}.`, span);
    return value;
  }

  /** Nothing may be left. What could have stood here serves for a "did you mean". */
  finish(possible: readonly string[] = []): void {
    if (this.done) return;
    const word = this.word();
    const verb = this.kind() === TokenKind.text || word.length > 0 ? this.found() : 'this';
    this.failAmong(possible, `${capitalised(verb)} does not fit here.`, word === '' ? null : nearest(word, possible));
  }

  /** Takes one token, coloured as said, and gives it as written. */
  advance(tokenClass: TokenClass): string {
    const token = this.token(0);
    if (token === undefined) return '';
    const word = this.word();
    this.classes[token] = tokenClass;
    this.at += 1;
    return word;
  }

  /** What stands here, in words fit for a message. */
  found(): string {
    switch (this.kind()) {
      case TokenKind.end:
        return 'the end of the line';
      case TokenKind.unclosed:
        return 'a quote that is not closed on its line';
      default: {
        const word = this.word();
        return word.length > 40 ? `${word.slice(0, 37)}…` : word;
      }
    }
  }

  private takeName(tokenClass: TokenClass): Name {
    const span = this.here;
    if (this.spent) return { text: '', span };
    const isQuoted = this.kind() === TokenKind.quoted;
    const written = this.advance(tokenClass);
    const text = isQuoted ? unquote(written) : written;
    if (text === '' || text.includes('\0')) this.fail('A name needs at least one letter.', span);
    return { text, span };
  }

  private token(ahead: number): number | undefined {
    return this.spent ? undefined : this.line[this.at + ahead];
  }

  private spanOf(token: number): Span {
    return { start: this.source.starts[token] ?? 0, end: this.source.ends[token] ?? 0 };
  }
}

/** Reads one or more things with commas between. */
export function list<T>(reader: Reader, read: () => T): T[] {
  const items = [read()];
  while (reader.takes(',')) items.push(read());
  return items;
}

function quoted(word: string): string {
  return /^[a-z]/i.test(word) ? word : `“${word}”`;
}

function capitalised(text: string): string {
  return text.startsWith('the end') || text.startsWith('a quote') ? text[0]?.toUpperCase() + text.slice(1) : text;
}
