import type { MeantFinding, Model } from '../model/index.js';
import { didYouMean, type Finding, type Span } from '../notation/index.js';
import { REASONS } from './why.js';

/** The line that says of a finding that it is meant so; undefined where none does. */
export function meantBy(model: Model, code: string, span: Span): MeantFinding | undefined {
  return model.meant.find(
    (meant) =>
      meant.code === code && (meant.within === null || (meant.within.start <= span.start && span.end <= meant.within.end)),
  );
}

/**
 * Findings without those that are meant so. What is wrong is told all the same, since it is left out. A line that speaks of
 * no finding is one itself.
 *
 * @param ofRows the codes of what is found in rows alone
 */
export function unlessMeant(model: Model, text: string, findings: readonly Finding[], ofRows: ReadonlySet<string>): Finding[] {
  if (model.meant.length === 0) return [...findings];
  const used = new Set<MeantFinding>();
  const told = findings.filter(({ weight, code, span }) => {
    const meant = weight === 'error' ? undefined : meantBy(model, code, span);
    if (meant !== undefined) used.add(meant);
    return meant === undefined;
  });
  const idle = model.meant.filter((meant) => !used.has(meant) && !ofRows.has(meant.code));
  return [...told, ...idle.map((meant) => idleFinding(meant, text, findings, ofRows))];
}

function idleFinding(
  { code, span, head }: MeantFinding,
  text: string,
  findings: readonly Finding[],
  ofRows: ReadonlySet<string>,
): Finding {
  const known = new Set([...Object.keys(REASONS), ...ofRows, ...findings.map((finding) => finding.code)]);
  const word = code.replaceAll('-', '_');
  const isKnown = known.has(code);
  return {
    weight: isKnown ? 'note' : 'warning',
    code: 'meant-nothing',
    message: isKnown
      ? `meant ${word}: nothing is found there any more, so the line can go.`
      : `meant ${word}: there is no finding of this name.${didYouMean(
          word,
          Array.from(known, (name) => name.replaceAll('-', '_')),
        )}`,
    span: head,
    fixes: isKnown ? [{ title: 'Take the line out', edits: [{ span: lineOf(text, span), text: '' }] }] : [],
  };
}

/** A line with its line break, so that none is left empty. */
function lineOf(text: string, { start, end }: Span): Span {
  const next = text.indexOf('\n', end);
  if (next >= 0) return { start, end: next + 1 };
  return { start: Math.max(0, text.slice(0, start).trimEnd().length), end: text.length };
}
