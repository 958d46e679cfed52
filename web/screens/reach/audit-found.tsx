import type { Audit } from '../../../contract/index.js';
import { hasLeaks, isWhole, verdictOf } from '../../../core/audit/index.js';
import { AuditHole } from './audit-hole.js';
import { AuditLeak } from './audit-leak.js';

interface AuditFoundProps {
  readonly tree: string;
  readonly audit: Audit;
  /** The one before that came to its end. */
  readonly before: Audit | null;
  readonly neverTried: readonly string[];
  /** The text is the one that was audited. */
  readonly isOfText: boolean;
  readonly isRunning: boolean;
}

type State = Audit['state'];

/** What an audit has found: its verdict, what got out and what would close it, and what was tried and what not. */
export function AuditFound({ tree, audit, before, neverTried, isOfText, isRunning }: AuditFoundProps) {
  const { state, begunAt } = audit;
  const news = before === null ? [] : newSince(state, before.state);
  return (
    <div className="mt-3 space-y-5">
      <Verdict state={state} isRunning={isRunning} />
      <p className="text-small text-ink-2">
        Begun <time dateTime={begunAt}>{new Date(begunAt).toLocaleString('en')}</time>
        {isOfText ? '' : ', of a text that is another since: its places are those of the text as it was'}
        {before !== null && news.length === 0 && !isRunning && '; nothing is new since the audit before it'}
        {news.length > 0 && `; new since the audit before it: ${news.length} of these`}
      </p>
      {(state.holes.length > 0 || state.leaks.length > 0) && (
        <ul aria-label="What was found" className="space-y-3">
          {state.holes.map((hole) => (
            <AuditHole
              key={`${hole.code} ${hole.message}`}
              tree={tree}
              hole={hole}
              isNew={news.includes(hole.message)}
              isOfText={isOfText}
            />
          ))}
          {state.leaks.map((leak) => (
            <AuditLeak
              key={`${leak.way} ${leak.as} ${leak.text}`}
              tree={tree}
              leak={leak}
              isNew={news.includes(leakName(leak))}
            />
          ))}
        </ul>
      )}
      <Tells state={state} />
      <Tried state={state} />
      <NotTried state={state} neverTried={neverTried} />
    </div>
  );
}

/** What of an audit was not found by the one before. */
function newSince(now: State, before: State): readonly string[] {
  const known = new Set([...before.holes.map(({ message }) => message), ...before.leaks.map(leakName)]);
  return [...now.holes.map(({ message }) => message), ...now.leaks.map(leakName)].filter((name) => !known.has(name));
}

function leakName({ way, as, text }: State['leaks'][number]): string {
  return `${way}\n${as}\n${text}`;
}

function Verdict({ state, isRunning }: { readonly state: State; readonly isRunning: boolean }) {
  const isLeaking = hasLeaks(state);
  const isDone = state.done >= state.all;
  return (
    <p role="status" aria-label="Verdict" className={`font-serif text-title ${isLeaking ? 'text-harm' : ''}`}>
      {isLeaking ? '✕ ' : isDone && isWhole(state) && <span className="text-fine">✓ </span>}
      {verdictOf(state)}
      {!isDone && !isRunning && <span className="text-ink-2"> Stopped.</span>}
    </p>
  );
}

/** What is seen of hidden rows, as the text has it. */
function Tells({ state: { tells } }: { readonly state: State }) {
  if (tells.length === 0) return null;
  return (
    <details className="text-small">
      <summary className="cursor-pointer font-serif font-semibold">
        What is seen of hidden rows, by design: {tells.length}
      </summary>
      <ul className="mt-1 list-disc space-y-0.5 pl-5 text-ink-2">
        {tells.map(({ message }) => (
          <li key={message}>{message}</li>
        ))}
      </ul>
    </details>
  );
}

/** How many ways were tried, by their kind. */
function Tried({ state: { ways, writes } }: { readonly state: State }) {
  const rows = Object.entries(ways).sort(([one], [other]) => one.localeCompare(other));
  if (rows.length === 0) return null;
  return (
    <div>
      <h4 className="font-serif font-semibold">What was tried</h4>
      {!writes && (
        <p className="text-small text-ink-2">
          Commands are left out: what they write could not be taken back here, or cannot be written.
        </p>
      )}
      <ul aria-label="Ways by their kind" className="mt-1 columns-2 gap-8 text-small">
        {rows.map(([way, { held, leaked }]) => (
          <li key={way} className="flex gap-2 border-b border-line py-0.5">
            <span className="flex-1 truncate">{way}</span>
            {leaked > 0 && <span className="font-semibold text-harm">✕ {leaked}</span>}
            <span className="font-mono text-ink-2">{(held + leaked).toLocaleString('en')}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}

function NotTried({ state: { untried }, neverTried }: { readonly state: State; readonly neverTried: readonly string[] }) {
  return (
    <details className="text-small">
      <summary className="cursor-pointer font-serif font-semibold">What was not tried</summary>
      <ul className="mt-1 list-disc space-y-0.5 pl-5 text-ink-2">
        {untried.map(({ why, ways, example }) => (
          <li key={`${ways} ${why}`}>
            {ways > 0 && `${ways} of this kind, as `}
            <code className="font-mono">{example.replace(/\s*\n\s*/g, ' ')}</code>: {why}
          </li>
        ))}
        {neverTried.map((one) => (
          <li key={one}>{one}</li>
        ))}
      </ul>
    </details>
  );
}
