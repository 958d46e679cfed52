import { DECLARATION_WORDS } from './declarations.js';
import { ENTITY_LINE_WORDS, TYPE_WORDS } from './entity-lines.js';
import { lex, TokenKind, type Tokens } from './lexer.js';
import { QUERY_LINE_WORDS } from './query-lines.js';
import { RELATION_LINE_WORDS } from './relation-lines.js';

const WIDEST_ALIGNMENT = 24;

/**
 * Writes a text in the one form that everybody shares: two spaces a level, one space between words, the types of
 * neighbouring fields below each other, one blank line between declarations. Comments, the order of lines and the
 * breaks inside a line stay; what the text says stays too, and so does a line that cannot be read.
 *
 * Formatting twice changes nothing more.
 */
export function format(text: string): string {
  const tokens = lex(text);
  const lines = printedLines(tokens);
  align(lines);
  return separate(lines);
}

interface PrintedLine {
  level: number;
  /** The words before the column at which types are aligned; null where the line is no field. */
  name: string | null;
  rest: string;
  comment: string;
  /** Goes on from the line above. */
  continues: boolean;
}

function printedLines(tokens: Tokens): PrintedLine[] {
  const lines: PrintedLine[] = [];
  const levels: number[] = [];
  let depth = 0;
  let comma = false;
  let from = 0;
  let open = 0;
  for (let index = 0; index <= tokens.count; index++) {
    if (index < tokens.count && tokens.kinds[index] !== TokenKind.lineBreak) continue;
    const own = range(from, index);
    const comment = own.find((token) => tokens.kinds[token] === TokenKind.comment);
    const words = own.filter((token) => token !== comment);
    const first = words[0] ?? comment;
    if (first === undefined) {
      lines.push({ level: 0, name: null, rest: '', comment: '', continues: false });
    } else {
      const lineStart = tokens.text.lastIndexOf('\n', (tokens.starts[first] ?? 0) - 1) + 1;
      const lead = tokens.text.slice(lineStart, tokens.starts[first]).replaceAll('\t', '  ').replaceAll('\ufeff', '');
      const indent = lead.length;
      const closer = words[0] !== undefined && ')]'.includes(symbolAt(tokens, words[0]) || 'x');
      const owner = levels.at(-1) ?? 0;
      const continues = words.length > 0 && ((open > 0 && (indent > owner || closer)) || (comma && indent > owner));
      if (!continues) {
        open = 0;
        if (words.length > 0) {
          while (levels.length > 0 && (levels.at(-1) ?? 0) >= indent) levels.pop();
          depth = levels.length;
          levels.push(indent);
        }
      }
      // A comment on a line of its own stands with the line that follows it, or else with the one before.
      const level = words.length > 0 ? depth + (continues ? 1 : 0) : levels.filter((level) => level < indent).length;
      const { name, rest } = printWords(tokens, words, level, continues);
      lines.push({
        level,
        name,
        rest,
        comment: comment === undefined ? '' : tokens.text.slice(tokens.starts[comment], tokens.ends[comment]).trimEnd(),
        continues,
      });
      for (const word of words) {
        const symbol = symbolAt(tokens, word);
        if (symbol === '(' || symbol === '[') open += 1;
        else if (symbol === ')' || symbol === ']') open = Math.max(0, open - 1);
      }
      if (words.length > 0) comma = open === 0 && symbolAt(tokens, words.at(-1) ?? 0) === ',';
    }
    from = index + 1;
  }
  return lines;
}

function range(from: number, to: number): number[] {
  return Array.from({ length: to - from }, (_, index) => from + index);
}

function symbolAt(tokens: Tokens, token: number): string {
  return tokens.kinds[token] === TokenKind.symbol ? tokens.text.slice(tokens.starts[token], tokens.ends[token]) : '';
}

/** Words that begin a line which is no field, whatever stands behind them. */
const NOT_FIELDS = new Set([
  ...ENTITY_LINE_WORDS,
  ...RELATION_LINE_WORDS,
  ...QUERY_LINE_WORDS,
  ...[
    'actor',
    'clock',
    'dialect',
    'stored',
    'tables',
    'references',
    'unless',
    'pin',
    'rows',
    'statements',
    'every',
    'no',
    'fails',
    'done',
    'refused',
  ],
]);

function printWords(
  tokens: Tokens,
  words: readonly number[],
  level: number,
  continues: boolean,
): { name: string | null; rest: string } {
  const second = words[1];
  const first = words[0];
  const isField =
    level > 0 &&
    !continues &&
    first !== undefined &&
    second !== undefined &&
    (tokens.kinds[first] === TokenKind.quoted ||
      (tokens.kinds[first] === TokenKind.word && !NOT_FIELDS.has(wordAt(tokens, first)))) &&
    (tokens.kinds[second] === TokenKind.capital || TYPE_WORDS.includes(wordAt(tokens, second)) || wordAt(tokens, second) === '=');
  if (!isField) return { name: null, rest: join(tokens, words) };
  return { name: wordAt(tokens, first), rest: join(tokens, words.slice(1)) };
}

function wordAt(tokens: Tokens, token: number): string {
  return tokens.text.slice(tokens.starts[token], tokens.ends[token]);
}

function join(tokens: Tokens, words: readonly number[]): string {
  let printed = '';
  words.forEach((token, index) => {
    const before = words[index - 1];
    if (before !== undefined && spaced(tokens, words, index)) printed += ' ';
    printed += wordAt(tokens, token);
  });
  return printed;
}

const CALLED_BEFORE_BRACKET = new Set([
  'in',
  'and',
  'or',
  'not',
  'as',
  'when',
  'then',
  'else',
  'unique',
  'index',
  'key',
  'load',
  'from',
  'to',
  'where',
  'by',
  'show',
]);

/** Does a space stand before the word at this place? */
function spaced(tokens: Tokens, words: readonly number[], index: number): boolean {
  const left = words[index - 1] ?? 0;
  const right = words[index] ?? 0;
  const a = symbolAt(tokens, left);
  const b = symbolAt(tokens, right);
  const touching = tokens.ends[left] === tokens.starts[right];
  if (a === '.' || b === '.' || a === '(' || a === '[' || b === ')' || b === ']' || b === ',' || b === '[') return false;
  if (b === ':') return !isLabel(tokens, words, index);
  if (a === ':') return isLabel(tokens, words, index - 1);
  if (b === '(') return a === '' ? !isCall(tokens, words, index - 1, touching) : a !== ')';
  if (b === '%') {
    const next = words[index + 1];
    const share = tokens.kinds[left] === TokenKind.number && (touching || next === undefined || symbolAt(tokens, next) === ',');
    return !share;
  }
  if (a === '-') {
    const before = words[index - 2];
    const unary = before === undefined || isOperator(tokens, before) || touching;
    return !(unary && touching);
  }
  return true;
}

/** What a function, a type or a row takes stands close to its name; a list of fields or columns stands apart. */
function isCall(tokens: Tokens, words: readonly number[], name: number, touching: boolean): boolean {
  const word = wordAt(tokens, words[name] ?? 0);
  if (tokens.kinds[words[name] ?? 0] === TokenKind.word && CALLED_BEFORE_BRACKET.has(word)) return false;
  const first = wordAt(tokens, words[0] ?? 0);
  if (first === 'stored') return wordAt(tokens, words[1] ?? 0) !== 'in' && touching;
  const listed =
    first === 'load' &&
    !words
      .slice(0, name)
      .some((token) => ['where', 'order', 'limit'].includes(wordAt(tokens, token)) || symbolAt(tokens, token) === '[');
  return touching && !listed;
}

function isOperator(tokens: Tokens, token: number): boolean {
  const symbol = symbolAt(tokens, token);
  return symbol !== '' && symbol !== ')' && symbol !== ']';
}

/** A colon behind a row's or a check's name; any other begins a parameter. */
function isLabel(tokens: Tokens, words: readonly number[], colon: number): boolean {
  const first = wordAt(tokens, words[0] ?? 0);
  return colon === 1 ? !NOT_FIELDS.has(first) : (colon === 2 && (first === 'check' || first === 'rule')) || first === 'meant';
}

/** Brings the types of a block of neighbouring fields below each other. */
function align(lines: readonly PrintedLine[]): void {
  let block: PrintedLine[] = [];
  const finish = () => {
    const stored = block.filter((line) => !line.rest.startsWith('='));
    const width = Math.min(WIDEST_ALIGNMENT, Math.max(0, ...stored.map((line) => (line.name ?? '').length)));
    for (const line of block) {
      const name = line.name ?? '';
      const gap = stored.includes(line) ? Math.max(0, width - name.length) + 2 : 1;
      line.rest = `${name}${' '.repeat(gap)}${line.rest}`;
    }
    block = [];
  };
  for (const line of lines) {
    const sameBlock = line.name !== null && block.at(-1)?.level === line.level;
    if (!sameBlock && block.length > 0 && (line.name !== null || line.rest !== '' || line.comment === '')) {
      if (!line.continues) finish();
    }
    if (line.name !== null) block.push(line);
  }
  finish();
}

function separate(lines: readonly PrintedLine[]): string {
  const printed: string[] = [];
  let blank = true;
  let pendingBlank = false;
  lines.forEach((line, index) => {
    const empty = line.rest === '' && line.comment === '';
    if (empty) {
      pendingBlank = true;
      return;
    }
    const before = lines[index - 1];
    const starts = line.level === 0 && line.rest !== '' && DECLARATION_WORDS.includes(line.rest.split(' ')[0] ?? '');
    const commentAbove = before !== undefined && before.rest === '' && before.comment !== '' && before.level === 0;
    const singleLine = (text: string | undefined) => text?.startsWith('path ') === true || text?.startsWith('meant ') === true;
    const neighbours = singleLine(line.rest) && before !== undefined && singleLine(before.rest);
    if (!blank && (pendingBlank || (starts && !commentAbove && !neighbours))) printed.push('');
    const words = [line.rest, line.comment].filter((part) => part !== '').join('  ');
    printed.push('  '.repeat(line.level) + words);
    blank = false;
    pendingBlank = false;
  });
  return printed.length === 0 ? '' : `${printed.join('\n')}\n`;
}
