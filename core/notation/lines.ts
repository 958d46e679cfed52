import type { Finding } from './finding.js';
import { TokenKind, type Tokens } from './lexer.js';

/**
 * A logical line: its tokens without comments and line breaks (continuation lines joined), and the deeper lines
 * that belong to it.
 */
export interface Line {
  /** Columns of indentation of its first physical line. */
  readonly indent: number;
  /** Indices into the tokens. */
  readonly tokens: readonly number[];
  readonly children: Line[];
}

interface PhysicalLine {
  readonly indent: number;
  /** Where its text starts in the source, indentation included. */
  readonly start: number;
  readonly tokens: readonly number[];
}

const DEEPEST_NESTING = 60;

/**
 * Joins continued lines and hangs each line below the one it belongs to. The root lines are those at column one,
 * together with any that no line stands above.
 *
 * A bracket left open ends, with an error, at the first line that is not deeper than its own, so that it never
 * swallows what follows.
 */
export function readLines(tokens: Tokens, findings: Finding[]): Line[] {
  const logical = joinLines(physicalLines(tokens, findings), tokens, findings);
  return nest(logical, tokens, findings);
}

function physicalLines(tokens: Tokens, findings: Finding[]): PhysicalLine[] {
  const lines: PhysicalLine[] = [];
  let lineStart = 0;
  let current: number[] = [];
  const finish = () => {
    const first = current[0];
    if (first !== undefined) {
      const from = tokens.text.charCodeAt(lineStart) === 0xfeff ? lineStart + 1 : lineStart;
      const end = tokens.starts[first] ?? 0;
      const lead = tokens.text.slice(from, end);
      const indent = lead.replaceAll('\t', '  ').length;
      if (lead.includes('\t')) {
        findings.push({
          weight: 'error',
          code: 'tab-indentation',
          message: 'This line is indented with a tab. Indent with spaces.',
          span: { start: from, end },
          fixes: [{ title: 'Use spaces', edits: [{ span: { start: from, end }, text: ' '.repeat(indent) }] }],
        });
      }
      lines.push({ indent, start: from, tokens: current });
    }
    current = [];
  };
  for (let index = 0; index < tokens.count; index++) {
    const kind = tokens.kinds[index];
    if (kind === TokenKind.lineBreak) {
      finish();
      lineStart = tokens.ends[index] ?? 0;
    } else if (kind !== TokenKind.comment) {
      current.push(index);
    }
  }
  finish();
  return lines;
}

function joinLines(physical: readonly PhysicalLine[], tokens: Tokens, findings: Finding[]): Line[] {
  const logical: Line[] = [];
  let joined: number[] = [];
  let indent = 0;
  let open: number[] = [];
  let continues = false;

  const character = (token: number | undefined) =>
    token !== undefined && tokens.kinds[token] === TokenKind.symbol ? tokens.text[tokens.starts[token] ?? 0] : '';

  const finish = () => {
    for (const bracket of open) {
      findings.push({
        weight: 'error',
        code: 'open-bracket',
        message: `This ${character(bracket)} is never closed. Close it on its line, or indent the lines that it holds.`,
        span: { start: tokens.starts[bracket] ?? 0, end: tokens.ends[bracket] ?? 0 },
        fixes: [],
      });
    }
    if (joined.length > 0) logical.push({ indent, tokens: joined, children: [] });
    joined = [];
    open = [];
  };

  for (const line of physical) {
    const first = character(line.tokens[0]);
    const closesAlone = first === ')' || first === ']';
    const goesOn = (open.length > 0 && (line.indent > indent || closesAlone)) || (continues && line.indent > indent);
    if (!goesOn) {
      finish();
      indent = line.indent;
    }
    for (const token of line.tokens) {
      joined.push(token);
      const symbol = character(token);
      if (symbol === '(' || symbol === '[') open.push(token);
      else if (symbol === ')' || symbol === ']') open.pop();
    }
    continues = open.length === 0 && character(line.tokens.at(-1)) === ',';
  }
  finish();
  return logical;
}

function nest(logical: readonly Line[], tokens: Tokens, findings: Finding[]): Line[] {
  const roots: Line[] = [];
  const above: Line[] = [];
  for (const line of logical) {
    while (above.length > 0 && (above.at(-1)?.indent ?? 0) >= line.indent) above.pop();
    const owner = above.at(-1);
    const siblings = owner?.children ?? roots;
    const expected = owner === undefined ? 0 : owner.children[0]?.indent;
    const first = line.tokens[0] ?? 0;
    const start = tokens.starts[first] ?? 0;
    if (expected !== undefined && expected !== line.indent) {
      const from = tokens.text.lastIndexOf('\n', start - 1) + 1;
      findings.push({
        weight: 'error',
        code: 'indentation',
        message: `This line is indented by ${line.indent} where the lines beside it have ${expected}.`,
        span: { start: from, end: start },
        fixes: [{ title: `Indent by ${expected}`, edits: [{ span: { start: from, end: start }, text: ' '.repeat(expected) }] }],
      });
    }
    siblings.push(line);
    if (above.length < DEEPEST_NESTING) above.push(line);
  }
  return roots;
}
