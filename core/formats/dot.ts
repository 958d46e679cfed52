import type { Design } from '../design/index.js';
import { isKnot, mapOf, type StemEnd } from '../map/index.js';
import { withoutHidden } from './hidden.js';

/** The map of a design as a graph of DOT, whose stems have the signs of multiplicity at their ends. */
export function dotGraph({ model }: Design): string {
  const { labels, stems, entities } = mapOf(model, { lines: 'keys' });
  const byId = new Map(entities.map((entity) => [entity.id, withoutHidden(model, entity)]));
  const nodes = labels.map(({ id, kind }) => {
    const entity = byId.get(id);
    if (entity !== undefined) {
      const lines = entity.lines.map(({ text, detail }) => `${text}${detail === '' ? '' : ` ${detail}`}`);
      return `  ${quoted(id)} [shape=record, label="{${[entity.name, ...lines].map(field).join('|')}}"];`;
    }
    const shape = isKnot(id) ? 'point' : 'diamond';
    return `  ${quoted(id)} [shape=${shape}, label=${quoted(kind === 'pivot' ? id : '')}];`;
  });
  const edges = stems.map(
    ({ from, to, relation, fromEnd, toEnd, kind }) =>
      `  ${quoted(from)} -> ${quoted(to)} [label=${quoted(kind === 'kind' ? '' : relation)}, dir=both, arrowtail=${ARROWS[fromEnd]}, arrowhead=${ARROWS[toEnd]}${kind === 'kind' ? ', style=dashed' : ''}];`,
  );
  return [
    `digraph ${quoted(model.title)} {`,
    '  graph [rankdir=TB];',
    '  node [fontname="sans-serif"];',
    ...nodes,
    ...edges,
    '}',
    '',
  ].join('\n');
}

const ARROWS: Readonly<Record<StemEnd, string>> = {
  one: 'tee',
  'at most one': 'teeodot',
  many: 'crow',
  none: 'none',
};

/** A text in quotes: of a backslash and a quote the sign itself is meant (DOT language, “ID”; “escString”). */
function quoted(text: string): string {
  return `"${text
    .replaceAll('\\', '\\\\')
    .replaceAll('"', '\\"')
    .replace(/[\r\n]+/g, ' ')}"`;
}

/** A field of a record, in which some signs mean something (DOT language, “Record-based Nodes”). */
function field(text: string): string {
  return text.replace(/[{}|<>\\" ]/g, (sign) => `\\${sign}`).replace(/[\r\n]+/g, ' ');
}
