import { useState } from 'react';
import { rowText } from '../../../../core/edits/index.js';
import type { Wire } from '../../../../core/values/index.js';
import type { DesignView } from '../../../../core/view-models/index.js';
import { WhyTold } from '../why.js';

/** A row as two who ask the same have it: each of them sees it or does not. */
export interface SeenBeside {
  /** Its key, by which a text names it; null for a line of a flat answer. */
  readonly key: Wire;
  readonly shown: string;
  readonly one: boolean;
  readonly other: boolean;
  /** Both see it, and not the same of it: what is loaded with it, or what it shows. */
  readonly differs: boolean;
}

/** How many rows one of the two alone sees, and both. */
export interface BesideCounts {
  readonly onlyOne: number;
  readonly onlyOther: number;
  readonly both: number;
  /** Of those that both see, how many are not alike. */
  readonly differ: number;
}

interface BesideRowsProps {
  readonly tree: string;
  readonly rows: readonly SeenBeside[];
  readonly counts: BesideCounts;
  /** What is to be known of the rows, where they are not all. */
  readonly note: string | null;
  readonly pair: readonly [string, string];
  readonly shown: readonly [string, string];
  readonly entity: DesignView['entities'][number] | null;
}

const MOST_ROWS = 200;

/** Rows of two who ask the same, one by one, with the reason for each. */
export function BesideRows({ tree, rows, counts, note, pair, shown, entity }: BesideRowsProps) {
  const [asked, setAsked] = useState<string | null>(null);
  const { onlyOne, onlyOther, both, differ } = counts;
  return (
    <>
      <p role="status" aria-label="Beside" className="mt-2 font-serif">
        {onlyOne === 0 && onlyOther === 0 && differ === 0
          ? `Both see the same ${both.toLocaleString('en')}.`
          : `${onlyOne.toLocaleString('en')} only ${shown[0]}, ${onlyOther.toLocaleString('en')} only ${shown[1]}, ${both.toLocaleString('en')} both${differ > 0 ? `, of which ${differ.toLocaleString('en')} not alike` : ''}.`}
      </p>
      {note !== null && <p className="text-small text-ink-2">{note}</p>}
      <table className="mt-2 w-full border-collapse text-small">
        <thead>
          <tr className="border-b border-line-2 text-left">
            <th scope="col" className="py-1 pr-4 font-normal text-ink-2">
              row
            </th>
            {shown.map((name, at) => (
              <th key={pair[at]} scope="col" className="w-40 py-1 pr-4 font-semibold text-polymorphic">
                {name}
              </th>
            ))}
            <th scope="col" className="w-16" />
          </tr>
        </thead>
        <tbody>
          {rows.slice(0, MOST_ROWS).map((row, at) => {
            const named =
              entity === null || row.key === null
                ? null
                : rowText({ entity: entity.name, keyType: entity.keyType, key: row.key });
            const name = named ?? String(at);
            return (
              <tr key={name} className="border-b border-line align-top">
                <th scope="row" className="py-0.5 pr-4 text-left font-normal">
                  {named !== null && <span className="font-mono">{named}</span>} {row.shown !== String(row.key) && row.shown}
                  {asked === name && named !== null && <Whys tree={tree} row={named} pair={pair} />}
                </th>
                <Cell seen={row.one} differs={false} />
                <Cell seen={row.other} differs={row.differs} />
                <td>
                  {named !== null && (
                    <button
                      type="button"
                      aria-expanded={asked === name}
                      className="text-selected hover:underline"
                      onClick={() => setAsked(asked === name ? null : name)}
                    >
                      why
                    </button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {rows.length > MOST_ROWS && (
        <p className="mt-1 text-small text-ink-2">
          The first {MOST_ROWS} of {rows.length.toLocaleString('en')}.
        </p>
      )}
    </>
  );
}

function Cell({ seen, differs }: { readonly seen: boolean; readonly differs: boolean }) {
  if (!seen) return <td className="py-0.5 text-harm">✕ not here</td>;
  return <td className="py-0.5 text-fine">✓ here{differs && <span className="text-to-many">, not alike</span>}</td>;
}

/** Why each of the two sees a row or does not, side by side; the system needs no reason. */
function Whys({ tree, row, pair }: { readonly tree: string; readonly row: string; readonly pair: readonly [string, string] }) {
  return (
    <div className="grid grid-cols-2 gap-4 pb-2">
      {pair.map((as) => (
        <section key={as} aria-label={`Why, as ${as}`}>
          {as === 'system' ? (
            <p className="mt-2 text-ink-2">The system sees all rows.</p>
          ) : (
            <>
              <h3 className="mt-2 font-semibold">as {as}</h3>
              <WhyTold tree={tree} row={row} as={as} />
            </>
          )}
        </section>
      ))}
    </div>
  );
}
