import type { LogEntry } from '../../../contract/index.js';

/** How the engine answers a statement, step by step; what stands below a step is done for it. */
export function PlanTree({ steps, label }: { readonly steps: LogEntry['steps']; readonly label: string }) {
  return (
    <ol aria-label={label} className="mt-1.5 border-l-3 border-line-2 pl-3 text-small">
      {steps.map((step, index) => (
        <li
          key={`${index} ${step.text}`}
          style={{ paddingLeft: step.depth * 14 }}
          className={`flex gap-x-3 ${step.mark === null ? '' : 'text-to-many'}`}
        >
          <span>
            {step.mark === 'full scan' && '▲ '}
            {step.text}
          </span>
          <Rows {...step} />
        </li>
      ))}
    </ol>
  );
}

/** The rows that were expected and found; set off where the engine was far out. */
function Rows({ expected, found }: LogEntry['steps'][number]) {
  if (expected === null && found === null) return null;
  const isFarOut = expected !== null && found !== null && Math.max(expected, found) > 10 * Math.max(1, Math.min(expected, found));
  const told = [
    ...(expected === null ? [] : [`expects ${shown(expected)}`]),
    ...(found === null ? [] : [`found ${shown(found)}`]),
  ].join(', ');
  return (
    <span className={`ml-auto shrink-0 tabular-nums ${isFarOut ? 'font-semibold' : 'text-ink-2'}`}>
      {told}
      {isFarOut && ', far out'}
    </span>
  );
}

function shown(rows: number): string {
  return rows.toLocaleString('en', { maximumFractionDigits: 1 });
}
