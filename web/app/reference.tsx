import { parse, parseQuery } from '../../core/notation/index.js';
import { Dialog } from '../parts/dialog.js';
import { PARTS, type Part } from './reference-parts.js';

const KEYS: readonly (readonly [string, string])[] = [
  ['Ctrl K', 'everything that can be done, by typing'],
  ['?', 'this sheet'],
  ['Ctrl Enter', 'run the query (Try)'],
  ['Ctrl Z, Ctrl Shift Z', 'take a change of the text back, and forth again'],
  ['Ctrl Space', 'what fits at the cursor'],
  ['Tab', 'take the first of them'],
  ['Ctrl /', 'a line to a comment, and back'],
  ['T', 'write in the text'],
  ['K', 'the close kin of what is selected alone, and back'],
  ['F12, Ctrl click', 'go to where the word is declared; there: its uses'],
  ['F2', 'rename everywhere, and see each use'],
  ['Ctrl Shift [ and ]', 'fold a declaration, and unfold it'],
  ['Ctrl F', 'find in the text'],
  ['/', 'find an entity on the map, or filter the rows'],
  ['Tab, Enter', 'walk the labels of the map; select'],
  ['Arrows, Page up and down', 'move from cell to cell of a grid, or through the rows of an answer'],
  ['Enter, on a cell', 'walks to the row, or the rows, that it leads to'],
];

/** The notation by example, and the keys. */
export function Reference({ onClose }: { onClose(): void }) {
  return (
    <Dialog title="The notation, and the keys" wide onClose={onClose}>
      <div className="columns-2 gap-8 p-6">
        <section className="mb-6 break-inside-avoid">
          <h3 className="font-serif text-[15px] font-semibold">Keys</h3>
          <dl className="mt-1.5 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1 text-small">
            {KEYS.map(([keys, words]) => (
              <div key={keys} className="contents">
                <dt className="font-mono whitespace-nowrap">{keys}</dt>
                <dd className="text-ink-2">{words}</dd>
              </div>
            ))}
          </dl>
        </section>
        {PARTS.map((part) => (
          <section key={part.title} className="mb-6 break-inside-avoid">
            <h3 className="font-serif text-[15px] font-semibold">{part.title}</h3>
            <p className="text-small text-ink-2">{part.words}</p>
            <Coloured part={part} />
          </section>
        ))}
      </div>
    </Dialog>
  );
}

function Coloured({ part: { text, query = false } }: { readonly part: Part }) {
  const { colours } = query ? parseQuery(text) : parse(text);
  return (
    <pre className="mt-1.5 border border-line bg-sheet px-3 py-2 font-mono text-small leading-relaxed whitespace-pre-wrap">
      {colours.map(({ span, class: name }, index) => (
        <span key={span.start}>
          {text.slice(colours[index - 1]?.span.end ?? 0, span.start)}
          <span className={`kin-${name}`}>{text.slice(span.start, span.end)}</span>
        </span>
      ))}
    </pre>
  );
}
