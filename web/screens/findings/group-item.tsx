import { useMemo, useState } from 'react';
import { Link, useParams } from 'react-router';
import { type FindingGroup, whyOf } from '../../../core/checks/index.js';
import { allTogether } from '../../../core/edits/index.js';
import { type Edit, type Finding, type Fix, positions } from '../../../core/notation/index.js';
import { Button } from '../../parts/button.js';
import { MeanIt } from './mean-it.js';
import { Preview } from './preview.js';

/** So many places of one sort are shown before the rest is asked for. */
const FIRST = 5;

/** What is being answered: a change of the text that is looked at first, or that a finding is meant so. */
type Answer =
  | { readonly kind: 'fix'; readonly title: string; readonly edits: readonly Edit[]; readonly left: number }
  | { readonly kind: 'meant'; readonly findings: readonly Finding[] };

/** Findings that say the same: why it matters, each place, and what mends one of them or all at once. */
export function GroupItem({
  group: { code, findings },
  read,
  text,
}: {
  readonly group: FindingGroup;
  /** The text that the findings are of. */
  readonly read: string;
  /** The text as it stands now. */
  readonly text: string;
}) {
  const [answer, setAnswer] = useState<Answer | null>(null);
  const [all, setAll] = useState(false);
  const why = whyOf(code);
  const name = code.replaceAll('-', ' ');
  const isMany = findings.length > 1;
  // The places of a fix are those of the text that was read; while a newer one is being read it waits.
  const isFresh = read === text;
  const shown = all ? findings : findings.slice(0, FIRST);
  const mayBeMeant = findings[0].weight !== 'error';
  return (
    <li className="grid grid-cols-[7.5rem_minmax(0,1fr)] gap-x-5 border-b border-line py-3">
      <div>
        {isMany ? (
          <p className="font-mono text-small">{findings.length} places</p>
        ) : (
          <LineLink finding={findings[0]} read={read} />
        )}
        <p className="mt-0.5 text-small text-ink-3">{name}</p>
      </div>
      <div className="max-w-[92ch]">
        {isMany && why !== null && <p className="mb-1 font-serif text-ink-2 italic">{why}</p>}
        <ul aria-label={isMany ? `Places of ${name}` : undefined}>
          {shown.map((finding) => (
            <li key={`${finding.span.start} ${finding.message}`} className={isMany ? 'mb-2' : ''}>
              <Place finding={finding} read={read} linked={isMany} />
              {!isMany && why !== null && <p className="mt-1 font-serif text-ink-2 italic">{why}</p>}
              <div className="mt-1.5 flex flex-wrap gap-2 text-small">
                {finding.fixes.map((fix) => (
                  <Button
                    key={fix.title}
                    disabled={!isFresh}
                    onClick={() => setAnswer({ kind: 'fix', title: fix.title, edits: fix.edits, left: 0 })}
                  >
                    {fix.title}…
                  </Button>
                ))}
                {mayBeMeant && (
                  <Button disabled={!isFresh} onClick={() => setAnswer({ kind: 'meant', findings: [finding] })}>
                    It is meant so…
                  </Button>
                )}
              </div>
            </li>
          ))}
        </ul>
        {isMany && (
          <div className="mt-2 flex flex-wrap gap-2">
            {findings.length > FIRST && (
              <Button aria-expanded={all} onClick={() => setAll(!all)}>
                {all ? 'Show the first alone' : `Show all ${findings.length}`}
              </Button>
            )}
            <AllAtOnce findings={findings} disabled={!isFresh} onAnswer={setAnswer} />
            {mayBeMeant && (
              <Button disabled={!isFresh} onClick={() => setAnswer({ kind: 'meant', findings })}>
                All {findings.length} are meant so…
              </Button>
            )}
          </div>
        )}
        {answer?.kind === 'fix' && isFresh && <Preview text={text} {...answer} onDone={() => setAnswer(null)} />}
        {answer?.kind === 'meant' && isFresh && <MeanIt findings={answer.findings} onDone={() => setAnswer(null)} />}
      </div>
    </li>
  );
}

/** A button for each fix that several of the findings have, which makes it at all their places. */
function AllAtOnce({
  findings,
  disabled,
  onAnswer,
}: {
  readonly findings: readonly Finding[];
  readonly disabled: boolean;
  onAnswer(answer: Answer): void;
}) {
  const byTitle = useMemo(() => {
    const fixes = new Map<string, Fix[]>();
    for (const fix of findings.flatMap((finding) => finding.fixes)) {
      const known = fixes.get(fix.title);
      if (known === undefined) fixes.set(fix.title, [fix]);
      else known.push(fix);
    }
    return Array.from(fixes).filter(([, own]) => own.length > 1);
  }, [findings]);
  return byTitle.map(([title, fixes]) => (
    <Button
      key={title}
      strong
      disabled={disabled}
      onClick={() => {
        const { edits, done, left } = allTogether(fixes);
        onAnswer({ kind: 'fix', title: `${title}, at ${done} places`, edits, left });
      }}
    >
      {title}, all {fixes.length}…
    </Button>
  ));
}

function Place({ finding, read, linked }: { readonly finding: Finding; readonly read: string; readonly linked: boolean }) {
  const line = read.slice(read.lastIndexOf('\n', finding.span.start) + 1).split('\n')[0] ?? '';
  return (
    <>
      <p>
        {linked && (
          <span className="mr-3">
            <LineLink finding={finding} read={read} />
          </span>
        )}
        <span className="sr-only">{finding.weight}: </span>
        {finding.message}
      </p>
      <pre className="mt-1 truncate border-l-2 border-line-2 pl-3 font-mono text-small text-ink-2">{line.trim()}</pre>
    </>
  );
}

function LineLink({ finding, read }: { readonly finding: Finding; readonly read: string }) {
  const { tree = '' } = useParams();
  const positionOf = useMemo(() => positions(read), [read]);
  return (
    <Link to={`/tree/${tree}/design?at=${finding.span.start}`} className="font-mono text-small text-selected hover:underline">
      line {positionOf(finding.span.start).line}
    </Link>
  );
}
