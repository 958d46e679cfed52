import { useMemo, useState } from 'react';
import { briefGroupsOf, type FindingGroup } from '../../../core/checks/index.js';
import { type Finding, type Fix, positions } from '../../../core/notation/index.js';
import { WEIGHT_SIGNS } from '../../parts/weights.js';

interface Doing {
  /** The findings are those of the text as it stands, so their fixes fit it. */
  readonly fresh: boolean;
  onGo(finding: Finding): void;
  onFix(fix: Fix): void;
}

interface LineDoing extends Doing {
  lineOf(finding: Finding): number;
}

/** What is wrong or doubtful in the text, each with its place and its fixes; many that say the same are one, until it is opened. */
export function Findings({ findings, text, ...rest }: Doing & { readonly findings: readonly Finding[]; readonly text: string }) {
  const groups = useMemo(() => briefGroupsOf(findings), [findings]);
  const positionOf = useMemo(() => positions(text), [text]);
  const doing = { ...rest, lineOf: (finding: Finding) => positionOf(finding.span.start).line };
  if (findings.length === 0)
    return <p className="border-t border-line px-4 py-1.5 text-small text-ink-2">✓ Nothing is wrong or doubtful.</p>;
  return (
    <ul aria-label="Findings" className="max-h-[28%] shrink-0 overflow-auto border-t border-line">
      {groups.map((group) => {
        const [first] = group.findings;
        const key = `${first.span.start} ${first.code} ${first.message}`;
        return group.findings.length === 1 ? (
          <FindingLine key={key} finding={first} {...doing} />
        ) : (
          <GroupLines key={key} group={group} {...doing} />
        );
      })}
    </ul>
  );
}

function GroupLines({ group: { weight, code, findings }, ...doing }: LineDoing & { readonly group: FindingGroup }) {
  const [open, setOpen] = useState(false);
  const [sign, colour] = WEIGHT_SIGNS[weight];
  return (
    <>
      <li className="flex items-baseline gap-3 border-b border-line px-4 py-1 text-small last:border-0">
        <button
          type="button"
          aria-expanded={open}
          className={`shrink-0 whitespace-nowrap underline-offset-2 hover:underline ${colour}`}
          onClick={() => setOpen(!open)}
        >
          {sign} {findings.length} places
        </button>
        <span className="min-w-0 flex-1 truncate" title={findings[0].message}>
          <span className="sr-only">{weight}: </span>
          {code.replaceAll('-', ' ')}: {findings[0].message}
        </span>
      </li>
      {open &&
        findings.map((finding) => <FindingLine key={`${finding.span.start} ${finding.message}`} finding={finding} {...doing} />)}
    </>
  );
}

function FindingLine({ finding, fresh, lineOf, onGo, onFix }: LineDoing & { readonly finding: Finding }) {
  const [sign, colour] = WEIGHT_SIGNS[finding.weight];
  return (
    <li className="flex items-baseline gap-3 border-b border-line px-4 py-1 text-small last:border-0">
      <button
        type="button"
        className={`shrink-0 whitespace-nowrap underline-offset-2 hover:underline ${colour}`}
        onClick={() => onGo(finding)}
      >
        {sign} line {lineOf(finding)}
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
}
