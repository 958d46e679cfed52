import { type Existing, importSchema, namesIn } from '../import/index.js';
import { resolve } from '../model/index.js';
import { parse } from '../notation/index.js';
import { mergeWords } from './merge.js';
import { blocksOf, type TextBlock, type TextPart } from './parts.js';

/** One thing that changed in a database, as it changes the text. */
export interface DatabaseChange {
  readonly kind: 'came' | 'went' | 'changed' | 'left';
  /** The declaration, as `entity Player`. */
  readonly where: string;
  /** The lines before and after; null where there are none. */
  readonly was: string | null;
  readonly now: string | null;
  /** For what was left to the person: why. */
  readonly why: string | null;
}

export interface BroughtAgain {
  /** The text with the changes, and with all that people wrote. */
  readonly text: string;
  readonly changes: readonly DatabaseChange[];
}

/**
 * What changed in a database since it was brought in, as edits to the text that was written of it.
 *
 * The database is told twice under the names that the text gives now: as it was, and as it is. Where the two differ the
 * text follows, line by line; a line that a person changed, too, is brought together word by word, or left and told.
 */
export function bringAgain(text: string, before: Existing, after: Existing): BroughtAgain {
  const syntax = parse(text);
  const { model } = resolve(syntax);
  const given = namesIn(model);
  const old = blocksOf(importSchema(before, model.title, given).text);
  const fresh = blocksOf(importSchema(after, model.title, given).text);
  const changes: DatabaseChange[] = [];
  const edits: { start: number; end: number; text: string }[] = [];
  const mine = blocksOf(text);
  const find = (blocks: readonly TextBlock[], key: string) => blocks.find((block) => block.key === key);

  for (const block of old) {
    const there = find(fresh, block.key);
    const own = find(mine, block.key);
    if (there !== undefined) {
      if (same(block.text, there.text)) continue;
      if (own === undefined)
        changes.push({ kind: 'left', where: block.key, was: block.text, now: there.text, why: 'the text no longer has it' });
      else changeLines(own, block, there, changes, edits);
    } else if (own !== undefined) {
      const isOwn = !same(own.text, block.text);
      if (isOwn)
        changes.push({
          kind: 'left',
          where: block.key,
          was: own.text,
          now: null,
          why: 'it is gone from the database, and the text has lines of your own below it',
        });
      else {
        changes.push({ kind: 'went', where: block.key, was: own.text, now: null, why: null });
        edits.push({ start: own.start, end: blankEnd(text, own.end), text: '' });
      }
    }
  }
  for (const block of fresh) {
    if (find(old, block.key) !== undefined || find(mine, block.key) !== undefined) continue;
    changes.push({ kind: 'came', where: block.key, was: null, now: block.text, why: null });
    const kind = block.key.split(' ')[0] ?? '';
    const last = [...mine].reverse().find((other) => other.key.startsWith(`${kind} `)) ?? mine.at(-1);
    const at = last?.end ?? text.length;
    edits.push({ start: at, end: at, text: `\n\n${block.text}` });
  }
  return { text: applied(text, edits), changes };
}

/** Brings what changed in one declaration over to the text's own. */
function changeLines(
  own: TextBlock,
  old: TextBlock,
  fresh: TextBlock,
  changes: DatabaseChange[],
  edits: { start: number; end: number; text: string }[],
): void {
  const where = own.key;
  const find = (block: TextBlock, key: string) => block.parts.find((part) => part.key === key);
  for (const part of old.parts) {
    const there = find(fresh, part.key);
    const line = find(own, part.key);
    if (there !== undefined && same(part.text, there.text)) continue;
    if (line === undefined) {
      const why =
        there === undefined
          ? 'it is gone from the database, and the text says it in other words, or not at all'
          : 'the text has no such line';
      changes.push({ kind: 'left', where, was: part.text.trim(), now: there?.text.trim() ?? null, why });
      continue;
    }
    const next = there === undefined ? (same(line.text, part.text) ? '' : null) : mergedLine(line, part, there);
    if (next === null) {
      const why = there === undefined ? 'it is gone from the database, and you changed the line' : 'you changed the same words';
      changes.push({ kind: 'left', where, was: line.text.trim(), now: there?.text.trim() ?? null, why });
    } else {
      changes.push({
        kind: next === '' ? 'went' : 'changed',
        where,
        was: line.text.trim(),
        now: next === '' ? null : next.trim(),
        why: null,
      });
      edits.push(
        next === '' ? { start: line.start, end: line.end + 1, text: '' } : { start: line.start, end: line.end, text: next },
      );
    }
  }
  let before: TextPart | undefined = own.parts[0];
  for (const part of fresh.parts) {
    const line = find(own, part.key);
    if (line !== undefined) before = line;
    if (find(old, part.key) !== undefined || line !== undefined) continue;
    changes.push({ kind: 'came', where, was: null, now: part.text.trim(), why: null });
    const at = before?.end ?? own.end;
    edits.push({ start: at, end: at, text: `\n${part.text}` });
  }
}

/** The text's own line with what changed in the database; null where both changed the same words. */
function mergedLine(own: TextPart, old: TextPart, fresh: TextPart): string | null {
  if (same(own.text, old.text)) return `${indentOf(own.text)}${fresh.text.trimStart()}`;
  const merged = mergeWords(words(old.text), words(own.text), words(fresh.text));
  return merged === null ? null : `${indentOf(own.text)}${merged.join(' ')}`;
}

function indentOf(line: string): string {
  return /^ */.exec(line)?.[0] ?? '';
}

/** Words between spaces; a text in quotes is one. */
function words(line: string): string[] {
  return line.trim().match(/(?:'(?:[^']|'')*'|"(?:[^"]|"")*"|[^\s'"])+/g) ?? [];
}

function same(a: string, b: string): boolean {
  return a.replace(/\s+/g, ' ').trim() === b.replace(/\s+/g, ' ').trim();
}

/** The end of a declaration with the blank lines behind it. */
function blankEnd(text: string, end: number): number {
  return end + (/^\n*/.exec(text.slice(end))?.[0].length ?? 0);
}

function applied(text: string, edits: readonly { start: number; end: number; text: string }[]): string {
  // At one place those come first that were found first.
  const ordered = edits.map((edit, index) => ({ ...edit, index })).sort((a, b) => b.start - a.start || b.index - a.index);
  let result = text;
  for (const { start, end, text: next } of ordered) result = result.slice(0, start) + next + result.slice(end);
  return `${result.trimEnd()}\n`;
}
