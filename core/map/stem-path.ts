import type { PlacedStem, Point, StemEnd } from './map.js';

const CORNER = 6;
const FOOT = 10;

/** A line of right angles as the data of a path of SVG, its corners rounded. */
export function stemPath(points: readonly Point[]): string {
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

/** The data of the paths that a stem is drawn with: its line, and the signs at its ends. A short one comes from a trunk, whose sign stands. */
export function stemPaths({ points, short, fromEnd, toEnd }: PlacedStem): readonly string[] {
  const paths = [stemPath(points), short ? '' : endSign(points, fromEnd), endSign([...points].reverse(), toEnd)];
  return paths.filter((path) => path !== '');
}

/** The sign at the first of the points, as the data of a path: a bar for one, a ring and a bar for at most one, a crow's foot for many. */
function endSign(points: readonly Point[], end: StemEnd): string {
  const [here, next] = points;
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
