import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import type { MapView } from '../../../core/view-models/index.js';
import { latestOnly } from '../../app/design-client.js';
import { useAppSelector } from '../../app/store.js';

const OPTIONS = { lines: 'names', folded: [] } as const;
const WIDTH = 648;
const HEIGHT = 300;
/** Of a map that would be smaller than this when it is seen whole, the upper middle is shown. */
const LEAST_SCALE = 0.3;
const MARGIN = 12;

/** The whole map, small: a first look. */
export function SmallMap({ tree }: { readonly tree: string }) {
  const view = useAppSelector((state) => state.workspace.view);
  const [map, setMap] = useState<MapView | null>(null);
  const ask = useRef<ReturnType<typeof latestOnly<'map'>> | null>(null);
  ask.current ??= latestOnly('map', setMap);
  useEffect(() => {
    if (view !== null) ask.current?.({ text: view.text, options: OPTIONS, kin: null });
  }, [view]);
  if (map === null) return <p className="text-ink-2">Drawing the map…</p>;
  const { labels, stems, width, height } = map.layout;
  const whole = Math.min(WIDTH / (width + 2 * MARGIN), HEIGHT / (height + 2 * MARGIN));
  const [wide, high] = [WIDTH / LEAST_SCALE, HEIGHT / LEAST_SCALE];
  const box =
    whole >= LEAST_SCALE
      ? [-MARGIN, -MARGIN, width + 2 * MARGIN, height + 2 * MARGIN]
      : [width / 2 - wide / 2, -MARGIN, wide, high];
  const names = new Map(map.labels.map(({ id, name }) => [id, name]));
  return (
    <Link
      to={`/tree/${tree}/design`}
      aria-label={`The map of ${labels.length} entities and pivots`}
      className="block border border-line-2 bg-label hover:border-selected"
    >
      <svg viewBox={box.join(' ')} className="block w-full" style={{ height: HEIGHT }} role="presentation">
        {stems.map(({ id, points, kind }) => (
          <polyline
            key={id}
            points={points.map(({ x, y }) => `${x},${y}`).join(' ')}
            className={`fill-none ${kind === 'pivot' ? 'stroke-pivot' : 'stroke-to-one'}`}
            strokeWidth={1.2}
          />
        ))}
        {labels.map(({ id, kind, x, y, width: own, height: tall }) => (
          <g key={id}>
            <rect
              x={x}
              y={y}
              width={own}
              height={tall}
              className={kind === 'pivot' ? 'fill-label stroke-pivot' : 'fill-sheet stroke-line-2'}
            />
            <text
              x={x + own / 2}
              y={y + tall / 2 + 5}
              textAnchor="middle"
              className="fill-ink font-serif"
              fontSize={kind === 'pivot' ? 12 : 15}
            >
              {names.get(id) ?? id.replace(/^pivot /, '')}
            </text>
          </g>
        ))}
      </svg>
      {whole < LEAST_SCALE && (
        <p className="border-t border-line px-3 py-1 text-small text-ink-2">
          The upper part of a large map, of {map.labels.length.toLocaleString('en')} entities. Its sheet has all of them.
        </p>
      )}
    </Link>
  );
}
