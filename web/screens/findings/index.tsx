import { useMemo, useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { whyOf } from '../../../core/checks/index.js';
import { applied } from '../../../core/edits/index.js';
import { type Finding, type Fix, positions, type Weight } from '../../../core/notation/index.js';
import { useAppDispatch, useAppSelector } from '../../app/store.js';
import { textChanged } from '../../app/workspace.js';
import { Button } from '../../parts/button.js';
import { LineDiff } from '../../parts/line-diff.js';
import { WEIGHT_SIGNS } from '../../parts/weights.js';
import { InTheRows } from './in-the-rows.js';

const NONE: readonly never[] = [];

const WEIGHTS: readonly { readonly weight: Weight; readonly title: string; readonly words: string }[] = [
  { weight: 'error', title: 'Wrong', words: 'left out until it is mended; the rest works' },
  { weight: 'warning', title: 'Doubtful', words: 'it works, but hardly as meant' },
  { weight: 'note', title: 'Worth knowing', words: 'nothing has to be done' },
];

/** Everything that is wrong or doubtful, by weight: why it matters, where it stands, and what would mend it. */
export function FindingsScreen() {
  const view = useAppSelector((state) => state.workspace.view);
  const text = useAppSelector((state) => state.workspace.text);
  const findings = view?.findings ?? NONE;
  const [search, setSearch] = useSearchParams();
  const only = search.get('code');
  const shown = only === null ? findings : findings.filter(({ code }) => code === only);
  const codes = Array.from(new Set(findings.map(({ code }) => code))).sort();
  if (view === null) return <p className="p-6 text-ink-2">Reading the text…</p>;
  return (
    <div className="min-h-0 flex-1 overflow-auto px-8 py-5">
      <h2 className="font-serif text-[22px] font-semibold">Findings</h2>
      <InTheRows text={view.text} />
      <header className="mt-7 flex items-baseline gap-3">
        <h3 className="font-serif text-title font-semibold">In the design</h3>
        <span className="text-ink-2">{summary(findings)}</span>
        {codes.length > 1 && (
          <label className="ml-auto text-small text-ink-2">
            Only{' '}
            <select
              className="rounded-sm border border-line-2 bg-label px-1 py-0.5 text-ink"
              value={only ?? ''}
              onChange={(event) => setSearch(event.target.value === '' ? {} : { code: event.target.value })}
            >
              <option value="">everything</option>
              {codes.map((code) => (
                <option key={code} value={code}>
                  {code.replaceAll('-', ' ')}
                </option>
              ))}
            </select>
          </label>
        )}
      </header>
      {findings.length === 0 && (
        <div className="mt-3 max-w-[62ch] border border-line bg-label px-6 py-5">
          <p className="font-serif text-title text-fine">✓ Nothing is wrong or doubtful.</p>
          <p className="mt-2 text-ink-2">
            The text is looked at while it is typed: names and types, rules that an engine cannot keep, keys that need each other,
            what kinds lose where they are stored, secrets that go out with every row. Both lists are printed by{' '}
            <code className="font-mono text-small">family-tree check --db</code>.
          </p>
        </div>
      )}
      {WEIGHTS.map(({ weight, title, words }) => {
        const own = shown.filter((finding) => finding.weight === weight);
        return own.length === 0 ? null : (
          <section key={weight} aria-label={title} className="mt-3">
            <h4 className="flex items-baseline gap-3 border-b border-line-2 pb-1">
              <span className={`font-semibold ${WEIGHT_SIGNS[weight][1]}`}>
                {WEIGHT_SIGNS[weight][0]} {title}
              </span>
              <span className="font-mono text-small">{own.length}</span>
              <span className="text-small text-ink-2">{words}</span>
            </h4>
            <ul>
              {own.map((finding) => (
                <FindingItem
                  key={`${finding.span.start} ${finding.code} ${finding.message}`}
                  finding={finding}
                  read={view.text}
                  text={text}
                />
              ))}
            </ul>
          </section>
        );
      })}
    </div>
  );
}

function summary(findings: readonly Finding[]): string {
  const parts = WEIGHTS.flatMap(({ weight, title }) => {
    const count = findings.filter((finding) => finding.weight === weight).length;
    return count === 0 ? [] : [`${count} ${title.toLowerCase()}`];
  });
  return parts.join(', ');
}

function FindingItem({ finding, read, text }: { readonly finding: Finding; readonly read: string; readonly text: string }) {
  const { tree = '' } = useParams();
  const [fix, setFix] = useState<Fix | null>(null);
  const positionOf = useMemo(() => positions(read), [read]);
  const { line } = positionOf(finding.span.start);
  const why = whyOf(finding.code);
  const place = read.slice(read.lastIndexOf('\n', finding.span.start) + 1).split('\n')[0] ?? '';
  // The places of a fix are those of the text that was read; while a newer one is being read it waits.
  const fresh = read === text;
  return (
    <li className="grid grid-cols-[7.5rem_minmax(0,1fr)] gap-x-5 border-b border-line py-3">
      <div>
        <Link to={`/tree/${tree}/design?at=${finding.span.start}`} className="font-mono text-small text-selected hover:underline">
          line {line}
        </Link>
        <p className="mt-0.5 text-small text-ink-3">{finding.code.replaceAll('-', ' ')}</p>
      </div>
      <div className="max-w-[92ch]">
        <p>
          <span className="sr-only">{finding.weight}: </span>
          {finding.message}
        </p>
        {why !== null && <p className="mt-1 font-serif text-ink-2 italic">{why}</p>}
        <pre className="mt-1.5 truncate border-l-2 border-line-2 pl-3 font-mono text-small text-ink-2">{place.trim()}</pre>
        {finding.fixes.length > 0 && (
          <div className="mt-2 flex flex-wrap gap-2">
            {finding.fixes.map((candidate) => (
              <Button
                key={candidate.title}
                disabled={!fresh}
                aria-expanded={fix === candidate}
                onClick={() => setFix(fix === candidate ? null : candidate)}
              >
                {candidate.title}…
              </Button>
            ))}
          </div>
        )}
        {fix !== null && fresh && <Preview text={text} fix={fix} onDone={() => setFix(null)} />}
      </div>
    </li>
  );
}

/** What a fix would change, before it does. */
function Preview({ text, fix, onDone }: { readonly text: string; readonly fix: Fix; onDone(): void }) {
  const dispatch = useAppDispatch();
  const after = applied(text, fix.edits);
  return (
    <section aria-label={`Preview: ${fix.title}`} className="mt-2 border border-line bg-label">
      <div className="max-h-60 overflow-auto py-2">
        <LineDiff before={text} after={after} />
      </div>
      <div className="flex gap-2 border-t border-line px-4 py-2">
        <Button
          strong
          onClick={() => {
            dispatch(textChanged(after, fix.title));
            onDone();
          }}
        >
          Change the text
        </Button>
        <Button onClick={onDone}>Leave it</Button>
      </div>
    </section>
  );
}
