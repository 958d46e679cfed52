import { useState } from 'react';
import type { QueryWarning } from '../../../contract/index.js';
import { Button } from '../../parts/button.js';

/** So many warnings are shown at once. */
const FIRST = 2;

/** What a person should know of the query that was run: each with what shows it, and a way out. */
export function Warnings({
  warnings,
  canMend,
  onGo,
  onMend,
}: {
  readonly warnings: readonly QueryWarning[];
  /** Whether a fix still fits: the text that it edits is the one that was run. */
  canMend(fix: NonNullable<QueryWarning['fix']>): boolean;
  onGo(span: { readonly start: number; readonly end: number }): void;
  onMend(fix: NonNullable<QueryWarning['fix']>): void;
}) {
  const [all, setAll] = useState(false);
  if (warnings.length === 0) return null;
  const shown = all ? warnings : warnings.slice(0, FIRST);
  return (
    <section aria-label="Warnings" className="max-h-[40%] shrink-0 overflow-auto border-b border-line-2 bg-label px-5 py-1.5">
      <ul>
        {shown.map(({ weight, code, message, evidence, span, fix }) => (
          <li key={`${code} ${message}`} className="flex items-baseline gap-3 py-1">
            <span aria-hidden="true" className={weight === 'warning' ? 'text-to-many' : 'text-ink-2'}>
              {weight === 'warning' ? '▲' : '●'}
            </span>
            <p className="min-w-0 flex-1">
              {span === null ? (
                message
              ) : (
                <button type="button" className="text-left hover:underline" onClick={() => onGo(span)}>
                  {message}
                </button>
              )}{' '}
              <span className="text-small text-ink-2">{evidence}</span>
            </p>
            {fix !== null && canMend(fix) && (
              <Button className="shrink-0" onClick={() => onMend(fix)}>
                {fix.title}
              </Button>
            )}
          </li>
        ))}
      </ul>
      {warnings.length > FIRST && (
        <button
          type="button"
          aria-expanded={all}
          className="py-0.5 text-small underline decoration-dotted underline-offset-2"
          onClick={() => setAll(!all)}
        >
          {all ? 'Show fewer' : `Show ${warnings.length - FIRST} more`}
        </button>
      )}
    </section>
  );
}
