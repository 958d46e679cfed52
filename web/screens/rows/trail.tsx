import type { Step } from './place.js';

/** The places that were walked through, to go back to any. */
export function Trail({ steps, onBack }: { readonly steps: readonly Step[]; onBack(index: number): void }) {
  if (steps.length === 0) return null;
  return (
    <nav aria-label="Trail" className="flex min-w-0 flex-wrap items-baseline gap-1.5 text-small">
      {steps.map((step, index) => (
        <span key={`${index} ${step.to}`} className="flex items-baseline gap-1.5">
          <button type="button" className="max-w-52 truncate text-selected hover:underline" onClick={() => onBack(index)}>
            {step.label}
          </button>
          <span className="text-ink-3" aria-hidden="true">
            ›
          </span>
        </span>
      ))}
    </nav>
  );
}
