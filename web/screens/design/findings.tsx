import { useMemo } from 'react';
import { type Finding, type Fix, positions } from '../../../core/notation/index.js';
import { WEIGHT_SIGNS } from '../../parts/weights.js';

/** What is wrong or doubtful in the text, each with its place and its fixes. */
export function Findings({
  findings,
  text,
  fresh,
  onGo,
  onFix,
}: {
  readonly findings: readonly Finding[];
  readonly text: string;
  /** The findings are those of the text as it stands, so their fixes fit it. */
  readonly fresh: boolean;
  onGo(finding: Finding): void;
  onFix(fix: Fix): void;
}) {
  const positionOf = useMemo(() => positions(text), [text]);
  if (findings.length === 0)
    return <p className="border-t border-line px-4 py-1.5 text-small text-ink-2">✓ Nothing is wrong or doubtful.</p>;
  return (
    <ul aria-label="Findings" className="max-h-[28%] shrink-0 overflow-auto border-t border-line">
      {findings.map((finding) => {
        const [sign, colour] = WEIGHT_SIGNS[finding.weight];
        return (
          <li
            key={`${finding.span.start} ${finding.code} ${finding.message}`}
            className="flex items-baseline gap-3 border-b border-line px-4 py-1 text-small last:border-0"
          >
            <button
              type="button"
              className={`shrink-0 whitespace-nowrap underline-offset-2 hover:underline ${colour}`}
              onClick={() => onGo(finding)}
            >
              {sign} line {positionOf(finding.span.start).line}
            </button>
            {/* What is only worth knowing keeps to a line; all of it stands on its own screen. */}
            <span className={finding.weight === 'note' ? 'min-w-0 flex-1 truncate' : 'flex-1'} title={finding.message}>
              <span className="sr-only">{finding.weight}: </span>
              {finding.message}
            </span>
            {finding.fixes.map((fix) => (
              <button
                key={fix.title}
                disabled={!fresh}
                type="button"
                className="shrink-0 text-selected underline"
                onClick={() => onFix(fix)}
              >
                {fix.title}
              </button>
            ))}
          </li>
        );
      })}
    </ul>
  );
}
