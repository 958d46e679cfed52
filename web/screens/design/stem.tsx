import { memo } from 'react';
import type { PlacedStem, Point, StemEnd } from '../../../core/map/index.js';
import type { Selection } from '../../app/selection.js';

const CORNER = 6;
const FOOT = 10;

const COLOURS: Readonly<Record<PlacedStem['kind'], string>> = {
  key: 'stroke-to-one',
  pivot: 'stroke-pivot',
  polymorphic: 'stroke-polymorphic',
  kind: 'stroke-kinds',
};

/** A stem with rounded corners and the trade's crow's-foot signs at its ends. */
export const Stem = memo(function Stem({
  stem,
  selected,
  onSelect,
}: {
  readonly stem: PlacedStem;
  readonly selected: boolean;
  onSelect(selection: Selection): void;
}) {
  const path = rounded(stem.points);
  const colour = selected ? 'stroke-selected' : COLOURS[stem.kind];
  const title = stem.kind === 'kind' ? `${stem.to} is a kind of ${stem.from}` : stem.relation;
  return (
    <g className={`${colour} fill-none`} strokeWidth={selected ? 2.4 : 1.4}>
      <path d={path} />
      {!stem.short && <path d={sign(stem.points, 0, stem.fromEnd)} />}
      <path d={sign([...stem.points].reverse(), 0, stem.toEnd)} />
      {/* The list beside the map serves the keyboard; a stem is for the mouse. */}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: see above */}
      <path
        d={path}
        className="pointer-events-auto cursor-pointer stroke-transparent"
        strokeWidth={12}
        onClick={() =>
          onSelect(stem.kind === 'kind' ? { kind: 'entity', name: stem.to } : { kind: 'relation', name: stem.relation })
        }
      >
        <title>{stem.short ? `${title}, from ${stem.from}` : title}</title>
      </path>
    </g>
  );
});

function rounded(points: readonly Point[]): string {
  const [first, ...rest] = points;
  if (first === undefined) return '';
  let path = `M ${first.x} ${first.y}`;
  rest.forEach((point, index) => {
    const before = points[index] ?? first;
    const after = rest[index + 1];
    if (after === undefined) {
      path += ` L ${point.x} ${point.y}`;
      return;
    }
    const radius = Math.min(CORNER, length(before, point) / 2, length(point, after) / 2);
    const enter = towards(point, before, radius);
    const leave = towards(point, after, radius);
    path += ` L ${enter.x} ${enter.y} Q ${point.x} ${point.y} ${leave.x} ${leave.y}`;
  });
  return path;
}

function length(a: Point, b: Point): number {
  return Math.abs(a.x - b.x) + Math.abs(a.y - b.y);
}

function towards(from: Point, to: Point, distance: number): Point {
  const whole = length(from, to) || 1;
  return { x: from.x + ((to.x - from.x) / whole) * distance, y: from.y + ((to.y - from.y) / whole) * distance };
}

/** The sign at an end: a bar for one, a ring and a bar for at most one, a crow's foot for many. */
function sign(points: readonly Point[], at: number, end: StemEnd): string {
  const here = points[at];
  const next = points[at + 1];
  if (here === undefined || next === undefined || end === 'none') return '';
  const dx = Math.sign(next.x - here.x);
  const dy = Math.sign(next.y - here.y);
  const along = (distance: number): Point => ({ x: here.x + dx * distance, y: here.y + dy * distance });
  const aside = (point: Point, distance: number): Point => ({ x: point.x + dy * distance, y: point.y + dx * distance });
  if (end === 'many') {
    const tip = along(FOOT);
    const [left, right] = [aside(here, 6), aside(here, -6)];
    return `M ${left.x} ${left.y} L ${tip.x} ${tip.y} L ${right.x} ${right.y}`;
  }
  const bar = along(7);
  const [left, right] = [aside(bar, 5), aside(bar, -5)];
  const ring = along(14);
  const circle = end === 'at most one' ? ` M ${ring.x - 3.5} ${ring.y} a 3.5 3.5 0 1 0 7 0 a 3.5 3.5 0 1 0 -7 0` : '';
  return `M ${left.x} ${left.y} L ${right.x} ${right.y}${circle}`;
}
