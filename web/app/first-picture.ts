import { type LabelLine, type PlacedLabel, relationOfLabel, stemPaths } from '../../core/map/index.js';
import type { OpeningTold } from '../../core/view-models/index.js';
import { NAME_SIZE, writtenName } from '../screens/design/label-name.js';
import { LABEL_LOOK, STEM_COLOURS } from '../screens/design/looks.js';
import { begun, type Place, steppedZoom } from '../screens/design/place.js';
import { addressed } from './addressed.js';
import { preferences } from './preferences.js';
import { isTourable, tourWanted } from './touring.js';

const SVG = 'http://www.w3.org/2000/svg';

/** What stands around the map, in pixels, as the frame, the tools and the list at the foot are laid out. */
const AROUND = { left: 104, top: 84, bottom: 96 } as const;
const TITLE_MARGIN = 16;
/** The page is laid out for at least this width. */
const LEAST_WIDTH = 1100;
/** The map's share of the width, where nobody has moved its border. */
const SHARE = 60;

let shown: HTMLElement | null = null;

/**
 * Shows the map of a tree that is opened, while the page's own code is still on its way: labels, their names and keys, and
 * stems, where the page will have them, below the title. A click on it counts: it is put into the address, which the page then opens.
 *
 * @returns whether it is shown: only where the address asks for nothing else than the map, as it is begun
 */
export function showFirstPicture({ view, map }: OpeningTold, { pathname, search }: Location): boolean {
  const isMap = addressed(pathname)?.screen === 'design' && search === '';
  const isPlain = preferences.getItem('map list') !== 'yes' && (preferences.getItem('map lines') ?? 'keys') === 'keys';
  // The tour stands above the map until it is put away.
  const isToured = tourWanted() && isTourable(view);
  if (!isMap || !isPlain || isToured || map.labels.length === 0) return false;
  const pane = {
    width: ((Math.max(innerWidth, LEAST_WIDTH) - AROUND.left) * share()) / 100,
    height: innerHeight - AROUND.top - AROUND.bottom,
  };
  if (pane.height <= 0) return false;
  const sheet = element('div', 'fixed overflow-hidden bg-sheet', {
    left: `${AROUND.left}px`,
    top: `${AROUND.top}px`,
    width: `${pane.width}px`,
    height: `${pane.height}px`,
  });
  sheet.setAttribute('role', 'img');
  sheet.setAttribute('aria-label', `The map of ${view.title}, which is being opened`);
  sheet.append(sheetOf(map, begun({ layout: map.layout, kin: null }, pane, null)));
  sheet.addEventListener('click', select);
  const title = written('div', 'fixed top-0 max-w-[34ch] truncate font-serif text-title leading-11 font-semibold', view.title);
  title.style.left = `${AROUND.left + TITLE_MARGIN}px`;
  shown = element('div', '');
  shown.append(title, sheet);
  document.body.append(shown);
  return true;
}

/** Takes the first picture away, once the page shows more. */
export function endFirstPicture(): void {
  shown?.remove();
  shown = null;
}

/** The map's share of the width in a hundred, as its border was moved to last. */
function share(): number {
  const [, first = ''] =
    /"first":([\d.]+)/.exec(preferences.getItem('react-resizable-panels:panes design:first:second') ?? '') ?? [];
  return Number(first) || SHARE;
}

function sheetOf({ labels, layout }: OpeningTold['map'], { x, y, zoom }: Place): HTMLElement {
  const sheet = element('div', 'absolute top-0 left-0 origin-top-left', {
    transform: `translate(${x}px, ${y}px) scale(${zoom})`,
  });
  const stems = drawn('svg', { class: 'absolute top-0 left-0 overflow-visible fill-none', 'stroke-width': '1.4' });
  for (const stem of layout.stems)
    for (const path of stemPaths(stem)) stems.append(drawn('path', { class: STEM_COLOURS[stem.kind], d: path }));
  const lines = new Map(labels.map((label) => [label.id, label.lines.filter(({ sort }) => sort !== 'key')]));
  sheet.append(stems, ...layout.labels.map((placed) => labelOf(placed, lines.get(placed.id) ?? [], steppedZoom(zoom))));
  return sheet;
}

function labelOf(placed: PlacedLabel, lines: readonly LabelLine[], zoom: number): HTMLElement {
  const { id, kind, x, y, width, height } = placed;
  const place = { left: `${x}px`, top: `${y}px`, width: `${width}px`, height: `${height}px` };
  if (kind !== 'entity') return signOf(kind, place, height);
  const name = writtenName(id, placed, zoom);
  const label = element('div', `absolute ${LABEL_LOOK} border-line-2`, place);
  label.dataset.select = id;
  switch (name.kind) {
    case 'alone': {
      label.classList.add('flex', 'items-center', 'justify-center');
      const middle = element('span', 'text-center font-serif leading-[1.1] font-semibold', {
        fontSize: `${name.size}px`,
        maxWidth: `${width - 8}px`,
      });
      middle.append(...name.lines.map((line) => written('span', 'block truncate', line)));
      label.append(middle);
      return label;
    }
    case 'above keys': {
      const isParted = name.lines.length > 1;
      const within = element('div', `origin-top-left ${name.isTight ? 'px-[3px]' : 'px-1.5'}`, {
        width: `${width * zoom}px`,
        transform: `scale(${1 / zoom})`,
      });
      const head = element('div', `truncate font-serif font-semibold ${isParted ? 'pt-0.5 leading-[15px]' : 'leading-6'}`, {
        fontSize: `${NAME_SIZE}px`,
      });
      head.append(...name.lines.map((line) => written('span', isParted ? 'block truncate' : '', line)));
      const list = element('div', 'font-mono text-small leading-[14.5px]');
      list.append(
        ...lines
          .slice(0, Math.max(0, name.room))
          .map(({ text, sort }) => written('div', `truncate ${sort === 'points' ? 'text-to-one' : 'text-ink-2'}`, text)),
      );
      within.append(head, list);
      label.append(within);
      return label;
    }
    case 'head':
      label.append(written('div', 'truncate px-3 pt-1 font-serif text-[15px] leading-6 font-semibold', id));
      return label;
  }
}

/** The lozenge of pairs, or the knot of a role to several; what is written beside it comes with the page. */
function signOf(kind: 'pivot' | 'knot', place: Readonly<Record<string, string>>, height: number): HTMLElement {
  const sign = element('div', 'absolute', place);
  const look = kind === 'pivot' ? 'rotate-45 border-pivot' : 'rounded-full border-polymorphic';
  sign.append(element('span', `absolute left-[5px] size-3.5 border bg-label ${look}`, { top: `${(height - 14) / 2}px` }));
  return sign;
}

/** Selects what was clicked by the address, as a link to it would; the router hears of it, where it is there by now. */
function select(event: MouseEvent): void {
  const label = event.target instanceof Element ? event.target.closest<HTMLElement>('[data-select]') : null;
  const entity = label?.dataset.select;
  if (entity === undefined || relationOfLabel(entity) !== null) return;
  history.replaceState(history.state, '', `?${new URLSearchParams({ select: `entity:${entity}` })}`);
  dispatchEvent(new PopStateEvent('popstate', { state: history.state }));
}

function element(tag: string, look: string, style: Readonly<Record<string, string>> = {}): HTMLElement {
  const made = document.createElement(tag);
  made.className = look;
  Object.assign(made.style, style);
  return made;
}

function written(tag: string, look: string, text: string): HTMLElement {
  const made = element(tag, look);
  made.textContent = text;
  return made;
}

function drawn(tag: string, attributes: Readonly<Record<string, string>>): SVGElement {
  const made = document.createElementNS(SVG, tag);
  for (const [name, value] of Object.entries(attributes)) made.setAttribute(name, value);
  return made;
}
