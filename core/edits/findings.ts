import type { Design } from '../design/index.js';
import { type Declaration, type Edit, type Finding, type Fix, quoteText } from '../notation/index.js';
import { insertion, lineEnd } from './lines.js';

/** Several fixes as one. */
export interface Together {
  readonly edits: readonly Edit[];
  /** How many of them are done. */
  readonly done: number;
  /** How many change the same place as one before, and so wait for the next time. */
  readonly left: number;
}

/** All fixes that can be made at once: those whose places do not meet those of an earlier one. */
export function allTogether(fixes: readonly Fix[]): Together {
  const edits: Edit[] = [];
  let done = 0;
  for (const fix of fixes) {
    const own = fix.edits.filter((edit) => !edits.some((known) => isSame(edit, known)));
    if (own.some((edit) => edits.some((known) => meets(edit, known)))) continue;
    edits.push(...own);
    done += 1;
  }
  return { edits, done, left: fixes.length - done };
}

function isSame(one: Edit, other: Edit): boolean {
  return one.text === other.text && one.span.start === other.span.start && one.span.end === other.span.end;
}

function meets({ span: one }: Edit, { span: other }: Edit): boolean {
  return (one.start < other.end && other.start < one.end) || one.start === other.start;
}

/** Lines that say of findings that they are meant so, behind those that say it already, or at the end of the text. */
export function addMeant(design: Design, findings: readonly Pick<Finding, 'code' | 'span'>[], why: string): Edit[] {
  const { text, syntax } = design;
  const lines = findings.map(
    ({ code, span }) =>
      `meant ${code.replaceAll('-', '_')}${placeOf(design, span)}: ${quoteText(why.trim().replace(/\s+/g, ' '))}`,
  );
  const written = [...new Set(lines)].join('\n');
  const last = syntax.declarations.filter(({ kind }) => kind === 'meant').at(-1);
  if (last !== undefined) return [insertion(lineEnd(text, last.span.end), `\n${written}`)];
  const end = text.trimEnd().length;
  return [insertion(end, `${end === 0 ? '' : '\n\n'}${written}${end === text.length ? '\n' : ''}`)];
}

/** ` of Entity.line`, ` of Entity`, ` of relation`: the smallest named thing that a place is in; nothing for the text itself. */
function placeOf({ text, syntax }: Design, span: Finding['span']): string {
  const holds = (whole: Finding['span']) => whole.start <= span.start && span.end <= whole.end;
  const declaration = syntax.declarations.find((one) => holds(one.span));
  if (declaration === undefined || !('name' in declaration) || declaration.kind === 'path') return '';
  const owner = text.slice(declaration.name.span.start, declaration.name.span.end);
  const line = linesOf(declaration).find((one) => holds(one.span) && 'name' in one);
  if (line === undefined || !('name' in line)) return ` of ${owner}`;
  return ` of ${owner}.${text.slice(line.name.span.start, line.name.span.end)}`;
}

function linesOf(declaration: Declaration) {
  return declaration.kind === 'entity' || declaration.kind === 'mixin' ? declaration.lines : [];
}
