import { type Declaration, type EntityLine, parse, type RelationLine, type Span } from '../notation/index.js';

/** A line of a declaration, with the lines that go on from it: what it is about, and where it stands. */
export interface TextPart {
  /** Tells the line from others of its declaration: two texts speak of the same thing under the same key. */
  readonly key: string;
  readonly start: number;
  readonly end: number;
  readonly text: string;
}

/** A declaration as lines that can be compared one by one. */
export interface TextBlock {
  readonly key: string;
  readonly start: number;
  readonly end: number;
  readonly text: string;
  /** The first line is the head. */
  readonly parts: readonly TextPart[];
}

/** A text as its declarations, by kind and name. */
export function blocksOf(text: string): TextBlock[] {
  return parse(text).declarations.map((declaration) => {
    const { start, end } = wholeLines(text, declaration.span);
    const lines: { key: string; span: Span }[] = [{ key: 'head', span: declaration.head }];
    for (const line of linesOf(declaration)) lines.push(line);
    const seen = new Map<string, number>();
    const parts = lines
      .sort((a, b) => a.span.start - b.span.start)
      .map(({ key, span }): TextPart => {
        const place = wholeLines(text, span);
        const count = (seen.get(key) ?? 0) + 1;
        seen.set(key, count);
        return { key: count === 1 ? key : `${key} (${count})`, ...place, text: text.slice(place.start, place.end) };
      });
    return { key: keyOf(declaration), start, end, text: text.slice(start, end), parts };
  });
}

/** From the first column of a span's first line to the end of its last. */
function wholeLines(text: string, span: Span): { start: number; end: number } {
  const start = text.lastIndexOf('\n', span.start - 1) + 1;
  const end = text.indexOf('\n', Math.max(span.start, span.end - 1));
  return { start, end: end < 0 ? text.length : end };
}

function keyOf(declaration: Declaration): string {
  switch (declaration.kind) {
    case 'tree':
      return 'tree';
    case 'sample':
      return `sample ${declaration.entity.text}`;
    case 'meant': {
      const { code, of } = declaration;
      const at = of === null ? '' : ` of ${of.owner.text}${of.member === null ? '' : `.${of.member.text}`}`;
      return `meant ${code.text}${at}`;
    }
    case 'expect':
      return `expect ${declaration.span.start}`;
    case 'path':
      return `path ${declaration.entity.text}.${declaration.name.text}`;
    default:
      return `${declaration.kind} ${declaration.name.text}`;
  }
}

function linesOf(declaration: Declaration): { key: string; span: Span }[] {
  switch (declaration.kind) {
    case 'entity':
    case 'mixin':
      return declaration.lines.map((line) => ({ key: entityLineKey(line), span: line.span }));
    case 'relation':
      return declaration.lines.flatMap((line) => [
        { key: relationLineKey(line), span: line.span },
        ...(line.kind === 'stored' ? line.lines.map((inner) => ({ key: entityLineKey(inner), span: inner.span })) : []),
      ]);
    case 'tree':
      return declaration.lines.map((line) => ({
        key:
          line.kind === 'stored type'
            ? `stored ${line.type}`
            : line.kind === 'kept'
              ? keptKey(line.sql[0]?.value ?? '')
              : line.kind,
        span: line.span,
      }));
    default:
      return [];
  }
}

function entityLineKey(line: EntityLine): string {
  switch (line.kind) {
    case 'field':
    case 'derived':
      return `field ${line.name.text}`;
    case 'check':
    case 'rule':
      return `check ${line.name.text}`;
    case 'unique':
    case 'index': {
      const named = line.tail.named ?? line.tail.asIndex;
      return named === null
        ? `${line.kind} (${line.fields.map((field) => field.text).join(', ')})`
        : `${line.kind} ${named.text}`;
    }
    case 'kept':
      return keptKey(line.sql[0]?.value ?? '');
    default:
      return line.kind;
  }
}

function relationLineKey(line: RelationLine): string {
  if (line.kind === 'sentence') return `sentence ${line.role.text}`;
  return line.kind === 'kept' ? keptKey(line.sql[0]?.value ?? '') : line.kind;
}

/** Kept SQL is told apart by its first words: what it makes, and the name of that. */
function keptKey(sql: string): string {
  return `kept ${sql
    .trim()
    .toLowerCase()
    .split(/[\s(]+/)
    .slice(0, 3)
    .join(' ')}`;
}
