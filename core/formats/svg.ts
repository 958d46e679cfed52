import type { Design } from '../design/index.js';
import {
  closeKinMap,
  detailOnMap,
  type EntityLabel,
  isKnot,
  layoutMap,
  mapOf,
  nameOnMap,
  type PlacedLabel,
  type PlacedStem,
  relationOfLabel,
  stemPaths,
} from '../map/index.js';
import { isPivot, type Model } from '../model/index.js';
import { withoutHidden } from './hidden.js';

/** How a picture of the map is drawn. */
export interface PictureOptions {
  readonly dark?: boolean;
  /** The entity whose close kin alone are drawn; left out, all. */
  readonly kin?: string;
  /** Left out, those that most machines have. */
  readonly letters?: Letters;
}

/** What colours of the page are on paper, and its letters. */
interface Paper extends Letters {
  readonly sheet: string;
  readonly label: string;
  readonly ink: string;
  readonly faint: string;
  readonly line: string;
  readonly stems: Readonly<Record<PlacedStem['kind'], string>>;
}

const LIGHT: Omit<Paper, keyof Letters> = {
  sheet: '#faf6ec',
  label: '#fffdf6',
  ink: '#1c2720',
  faint: '#4f5a4b',
  line: '#c3b89c',
  stems: { key: '#4b6c2c', pivot: '#7d3c69', polymorphic: '#4a6177', kind: '#96491f' },
};

const DARK: Omit<Paper, keyof Letters> = {
  sheet: '#1a231d',
  label: '#202b24',
  ink: '#ece7d8',
  faint: '#b3baa7',
  line: '#4a564b',
  stems: { key: '#9fbf7a', pivot: '#d29bc0', polymorphic: '#9db6cf', kind: '#e0a07c' },
};

/** The families of letters of a picture, as `font-family` has them. */
export interface Letters {
  readonly mono: string;
  readonly serif: string;
}

const LETTERS: Letters = { mono: 'ui-monospace, Menlo, Consolas, monospace', serif: 'Georgia, serif' };

const MARGIN = 24;
const HEAD = 48;
const LINE = 18;
/** Between a line and what is told of it. */
const GAP = 7;

/** The map of a design as a picture (SVG 1.1). */
export function svgPicture({ model }: Design, { dark = false, kin, letters = LETTERS }: PictureOptions = {}): string {
  const paper = { ...(dark ? DARK : LIGHT), ...letters };
  const map = mapOf(model, { lines: 'keys' });
  // Close kin have fewer lines than the whole map shows of them.
  const drawn =
    kin === undefined
      ? { entities: map.entities, layout: layoutMap(map.labels, map.stems) }
      : closeKinMap(map, { centres: [kin], opened: [], whole: [] });
  const { layout } = drawn;
  const entities = new Map(drawn.entities.map((entity) => [entity.id, withoutHidden(model, entity)]));
  const [width, height] = [layout.width + 2 * MARGIN, layout.height + 2 * MARGIN].map(Math.ceil);
  const parts = [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="${-MARGIN} ${-MARGIN} ${width} ${height}">`,
    `<title>${escaped(model.title)}</title>`,
    `<rect x="${-MARGIN}" y="${-MARGIN}" width="${width}" height="${height}" fill="${paper.sheet}"/>`,
    ...layout.stems.map((stem) => stemDrawn(stem, paper)),
    ...layout.labels.map((label) => labelDrawn(label, entities.get(label.id), model, paper)),
    '</svg>',
  ];
  return `${parts.join('\n')}\n`;
}

function stemDrawn(stem: PlacedStem, paper: Paper): string {
  const drawn = stemPaths(stem).map((path) => `<path d="${path}"/>`);
  return `<g fill="none" stroke="${paper.stems[stem.kind]}" stroke-width="1.4"><title>${escaped(stem.relation)}</title>${drawn.join('')}</g>`;
}

function labelDrawn(
  { id, x, y, width, height }: PlacedLabel,
  entity: EntityLabel | undefined,
  model: Model,
  paper: Paper,
): string {
  if (entity === undefined) return besideDrawn({ id, x, y, height }, model, paper);
  const lines = entity.lines.map(
    (line, at) =>
      `<text x="${x + 12}" y="${y + HEAD + 16 + at * LINE}" font-family="${paper.mono}" font-size="12" fill="${paper.ink}">${escaped(nameOnMap(line.text))}<tspan dx="${GAP}" fill="${paper.faint}">${escaped(detailOnMap(line.detail))}</tspan></text>`,
  );
  return [
    `<g><rect x="${x}" y="${y}" width="${width}" height="${height}" fill="${paper.label}" stroke="${paper.line}"/>`,
    `<text x="${x + 12}" y="${y + 21}" font-family="${paper.serif}" font-size="16" font-weight="600" fill="${paper.ink}">${escaped(nameOnMap(entity.name))}</text>`,
    `<text x="${x + 12}" y="${y + 38}" font-family="${paper.mono}" font-size="11" fill="${paper.faint}">${escaped(nameOnMap(entity.table))}</text>`,
    ...(lines.length === 0 ? [] : [`<path d="M ${x} ${y + HEAD} h ${width}" stroke="${paper.line}"/>`]),
    ...lines,
    '</g>',
  ].join('');
}

/** The lozenge of pairs, or the knot in which stems from several meet, with its name beside it. */
function besideDrawn({ id, x, y, height }: Pick<PlacedLabel, 'id' | 'x' | 'y' | 'height'>, model: Model, paper: Paper): string {
  const relation = model.relations.get(relationOfLabel(id) ?? '');
  const cy = y + height / 2;
  const name = (text: string, at: number, colour: string) =>
    `<text x="${at}" y="${cy + 4}" font-family="${paper.mono}" font-size="12" fill="${colour}">${escaped(nameOnMap(text))}</text>`;
  if (isKnot(id)) {
    const arc = `<path d="M ${x - 14} ${y - 12} Q ${x + 14} ${y - 1} ${x + 42} ${y - 12} M ${x + 14} ${y} V ${y + height}" fill="none" stroke="${paper.stems.polymorphic}"/>`;
    const role = relation?.kind === 'polymorphic' ? (relation.childRole ?? relation.name) : '';
    return `<g>${arc}<circle cx="${x + 14}" cy="${y + 11}" r="5.5" fill="${paper.label}" stroke="${paper.stems.polymorphic}"/><circle cx="${x + 14}" cy="${y + 11}" r="1.8" fill="${paper.stems.polymorphic}"/>${name(role, x + 30, paper.stems.polymorphic)}</g>`;
  }
  const cx = x + 12;
  const lozenge = `<path d="M ${cx} ${cy - 10} L ${cx + 10} ${cy} L ${cx} ${cy + 10} L ${cx - 10} ${cy} Z" fill="${paper.label}" stroke="${paper.stems.pivot}"/>`;
  const table = relation !== undefined && isPivot(relation) ? relation.table.value.name : '';
  return `<g>${lozenge}${name(table, x + 30, paper.stems.pivot)}</g>`;
}

/** A text as XML has it; signs that XML has not at all are left out (XML 1.0, 2.2). */
function escaped(text: string): string {
  return text
    .replace(/[^\t\n\r\u0020-\uD7FF\uE000-\uFFFD\u{10000}-\u{10FFFF}]/gu, '')
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replaceAll('"', '&quot;');
}
