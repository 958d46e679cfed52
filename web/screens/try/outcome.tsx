import type { RunResult } from '../../../contract/index.js';
import { TOTAL_PATH } from '../../../core/load/index.js';
import type { Comparison } from './compare.js';

export type RunOutcome =
  | { readonly kind: 'none' }
  | { readonly kind: 'failed'; readonly message: string }
  | { readonly kind: 'result'; readonly result: RunResult };

/** One sentence on top of it all, and beside it how it differs from the run before. */
export function Summary({
  shown,
  loading,
  comparison,
  panel,
  onTotal,
  hasActors,
}: {
  readonly shown: RunOutcome;
  readonly loading: boolean;
  readonly comparison: Comparison | null;
  /** What is unfolded below the sentence; `unfold` of the same folds it up. */
  readonly panel: { readonly open: Panel | null; unfold(panel: Panel): void };
  /** Counts the rows beside a page; null where that cannot be. */
  readonly onTotal: (() => void) | null;
  /** The text says who can be at work, so that the same can be asked as somebody else. */
  readonly hasActors: boolean;
}) {
  const result = shown.kind === 'result' && shown.result.ok ? shown.result : null;
  const isOfRows = result !== null && !result.flat && result.cardinality !== 'count' && result.cardinality !== 'exists';
  return (
    <div className="flex shrink-0 flex-wrap items-baseline gap-x-6 border-b border-line-2 px-5 py-2">
      <div role="status" aria-label="Outcome" className="font-serif text-[16px]">
        {loading ? 'Running…' : <Outcome shown={shown} />}
      </div>
      {result?.page === true && result.total === null && onTotal !== null && !loading && (
        <button type="button" className={UNFOLD} title="Counts all rows, in a statement of its own" onClick={onTotal}>
          Of how many?
        </button>
      )}
      {isOfRows && !loading && result.loads && <Unfold name="Ways to load" of="ways" panel={panel} />}
      {isOfRows && !loading && <Unfold name="What the page reads" of="reads" panel={panel} />}
      {result !== null && hasActors && !loading && <Unfold name="Beside somebody else" of="beside" panel={panel} />}
      {comparison !== null && !loading && <Compared comparison={comparison} />}
    </div>
  );
}

const UNFOLD = 'underline decoration-dotted underline-offset-2 hover:text-selected';

/** What can be unfolded below the sentence on top. */
export type Panel = 'ways' | 'reads' | 'beside';

function Unfold({
  name,
  of,
  panel,
}: {
  readonly name: string;
  readonly of: Panel;
  readonly panel: { readonly open: Panel | null; unfold(panel: Panel): void };
}) {
  return (
    <button type="button" aria-expanded={panel.open === of} className={UNFOLD} onClick={() => panel.unfold(of)}>
      {name}
    </button>
  );
}

function Compared({ comparison: { statements, rows, milliseconds, answer } }: { readonly comparison: Comparison }) {
  return (
    <p className="ml-auto text-small text-ink-2">
      <span className="font-serif italic">against the run before:</span>{' '}
      {answer.kind === 'same' ? (
        <span className="text-fine">✓ same answer</span>
      ) : answer.kind === 'other entity' ? (
        'another question'
      ) : (
        <span className="text-to-many">
          {[
            answer.came > 0 ? `+${answer.came} rows` : '',
            answer.went > 0 ? `−${answer.went} rows` : '',
            answer.changed > 0 ? `${answer.changed} changed` : '',
            answer.moved ? 'another order' : '',
          ]
            .filter((part) => part !== '')
            .join(', ') || 'the same rows, written otherwise'}
        </span>
      )}
      {' · '}
      {difference(statements, 'statements')} · {difference(rows, 'rows fetched')} · {milliseconds[0].toFixed(1)} →{' '}
      {milliseconds[1].toFixed(1)} ms
    </p>
  );
}

function difference([before, now]: readonly [number, number], what: string): string {
  const word = now === 1 ? what.replace(/s\b/, '') : what;
  return before === now
    ? `${now.toLocaleString('en')} ${word}`
    : `${before.toLocaleString('en')} → ${now.toLocaleString('en')} ${word}`;
}

function Outcome({ shown }: { readonly shown: RunOutcome }) {
  if (shown.kind === 'none')
    return <span className="text-ink-2 italic">Run the query to see its rows, and every statement that brought them.</span>;
  if (shown.kind === 'failed') return <span className="whitespace-pre-wrap text-harm">{shown.message}</span>;
  const { result } = shown;
  if (!result.ok) {
    const messages = [
      ...result.findings
        .filter((finding) => finding.weight === 'error' || result.findings.length === 1)
        .map((finding) => finding.message),
      ...result.problems,
    ];
    return (
      <span className="whitespace-pre-wrap text-harm">
        {messages.join('\n') || result.findings.map((finding) => finding.message).join('\n')}
      </span>
    );
  }
  const count = result.log.reduce((sum, entry) => sum + entry.times, 0);
  const loads = result.log
    .filter((entry) => entry.path !== '' && entry.path !== TOTAL_PATH)
    .reduce((sum, entry) => sum + entry.rows, 0);
  return (
    <>
      <strong>
        {count} statement{count === 1 ? '' : 's'}
      </strong>
      : {answered(result)}
      {loads > 0 && (
        <>
          , and {loads.toLocaleString('en')} loaded with {result.rows === 1 ? 'it' : 'them'}
        </>
      )}
      .
      {result.cuts.map(({ path, limit, size }) => (
        <span key={path} className="ml-2 text-to-many">
          ▲ Cut at {limit.toLocaleString('en')} rows{path === '' ? '' : ` of ${path}`}
          {size === null ? '' : `, at ${Math.round(size / 1024 / 1024)} MB of answer`}; there are more.
        </span>
      ))}
    </>
  );
}

/** What came, in words. */
function answered({ cardinality, rows, total, flat, entity, text }: Extract<RunResult, { ok: true }>): string {
  if (cardinality === 'count') return 'a count';
  if (cardinality === 'exists') return text.includes('true') ? 'there is one' : 'there is none';
  const number = `${rows.toLocaleString('en')}${total === null ? '' : ` of ${total.toLocaleString('en')}`}`;
  return flat
    ? `${number} line${(total ?? rows) === 1 ? '' : 's'}`
    : `${number} row${(total ?? rows) === 1 ? '' : 's'} of ${entity}`;
}
