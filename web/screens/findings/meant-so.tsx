import { useMemo } from 'react';
import { Link, useParams } from 'react-router';
import { positions } from '../../../core/notation/index.js';
import type { DesignView } from '../../../core/view-models/index.js';

/** The findings that a person has answered, with the reasons; nothing where there are none. */
export function MeantSo({ meant, text }: { readonly meant: DesignView['meant']; readonly text: string }) {
  const { tree = '' } = useParams();
  const positionOf = useMemo(() => positions(text), [text]);
  if (meant.length === 0) return null;
  return (
    <section aria-label="Meant so" className="mt-3">
      <h4 className="flex items-baseline gap-3 border-b border-line-2 pb-1">
        <span className="font-semibold text-fine">✓ Meant so</span>
        <span className="font-mono text-small">{meant.length}</span>
        <span className="text-small text-ink-2">told no more, since the text says why</span>
      </h4>
      <ul>
        {alike(meant).map(([first, ...others]) => (
          <li key={first.head.start} className="grid grid-cols-[7.5rem_minmax(0,1fr)] gap-x-5 border-b border-line py-2">
            <div>
              <Link
                to={`/tree/${tree}/design?at=${first.head.start}`}
                className="font-mono text-small text-selected hover:underline"
              >
                line {positionOf(first.head.start).line}
              </Link>
              {others.length > 0 && <span className="text-small text-ink-2"> and {others.length} more</span>}
              <p className="mt-0.5 text-small text-ink-3">{first.code.replaceAll('-', ' ')}</p>
            </div>
            <div className="max-w-[92ch] min-w-0">
              <p>{first.why}</p>
              <p className="truncate font-mono text-small text-ink-2">
                {[first, ...others].map(({ head }) => placeIn(text.slice(head.start, head.end))).join(', ')}
              </p>
            </div>
          </li>
        ))}
      </ul>
    </section>
  );
}

type Meant = DesignView['meant'][number];

/** Those of one sort that are meant so for one reason. */
function alike(meant: readonly Meant[]): [Meant, ...Meant[]][] {
  const groups = new Map<string, [Meant, ...Meant[]]>();
  for (const one of meant) {
    const group = groups.get(`${one.code} ${one.why}`);
    if (group === undefined) groups.set(`${one.code} ${one.why}`, [one]);
    else group.push(one);
  }
  return Array.from(groups.values());
}

/** What a line speaks of: `Login.password`. */
function placeIn(line: string): string {
  return /^meant \S+ of ([^:]+):/.exec(line)?.[1]?.trim() ?? 'everywhere';
}
