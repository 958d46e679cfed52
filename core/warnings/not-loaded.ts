import { heldAgainst, loadLines, withLines } from '../reads/index.js';
import { counted, type Warning } from './warning.js';

/** The page reads related rows that are not loaded: they are asked for once for each row. */
export const notLoaded: Warning = {
  code: 'not-loaded',
  find: ({ query, count, text }) => {
    const held = heldAgainst(query);
    const lines = loadLines(held);
    const [read] = query.reads;
    if (lines.length === 0 || read === undefined) return [];
    const paths = held.unloaded.map(({ path }) => path);
    return [
      {
        weight: 'warning' as const,
        code: notLoaded.code,
        message: `The page reads ${paths.join(', ')}, which ${paths.length === 1 ? 'is not loaded: it is' : 'are not loaded: each is'} asked for once for each row. Add “${lines.join('”, “')}”.`,
        evidence: `Some ${counted(count * paths.length, 'statement')} more for these ${counted(count, 'row')}.`,
        span: read.span,
        fix: {
          of: 'query' as const,
          title: `Add ${lines.join(', ')}`,
          edits: [{ span: { start: 0, end: text.length }, text: withLines(text, lines) }],
        },
      },
    ];
  },
};
