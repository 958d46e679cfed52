import { useMemo, useState } from 'react';
import type { QueryRun, RunResult } from '../../../contract/index.js';
import { rowText } from '../../../core/edits/index.js';
import { failureMessage, useRunMutation } from '../../app/api.js';
import { RowPicker } from '../../app/row-picker.js';
import { Button } from '../../parts/button.js';
import type { DesignView } from '../../workers/design-view.js';
import { WhyTold } from '../rows/why.js';
import { beside, type SeenBeside } from './beside.js';

interface BesidePanelProps {
  readonly tree: string;
  /** What was run, and on whose behalf. */
  readonly run: QueryRun;
  readonly result: Extract<RunResult, { ok: true }>;
  readonly view: DesignView;
  onClose(): void;
}

/** Somebody whom the same is asked as. */
interface Asked {
  readonly as: string;
  readonly shown: string;
}

/** The same query as two actors: row by row, who sees it and who does not, and why. */
export default function BesidePanel({ tree, run, result, view, onClose }: BesidePanelProps) {
  const [ask, { data, error, isLoading }] = useRunMutation();
  const [other, setOther] = useState<Asked | null>(null);
  // Lines of what is shown, counts and answers to “is there any” are no rows that a text could name.
  const isOfRows = !result.flat && result.cardinality !== 'count' && result.cardinality !== 'exists';
  const entity = isOfRows ? (view.entities.find(({ name }) => name === result.entity) ?? null) : null;
  const rows = useMemo(() => (data?.ok === true ? beside(result, data, entity) : []), [data, result, entity]);

  const choose = (next: Asked) => {
    setOther(next);
    void ask({ tree, run: { ...run, as: next.as } });
  };
  const actor = view.actor === null ? undefined : view.entities.find(({ name }) => name === view.actor);
  const one = run.as ?? 'system';
  return (
    <section
      aria-label="Beside somebody else"
      className="max-h-[60%] shrink-0 overflow-auto border-b border-line-2 bg-label px-5 py-3"
    >
      <header className="flex items-center gap-3">
        <h2 className="shrink-0 font-semibold">
          {one} beside {other?.shown ?? '…'}
        </h2>
        {['system', 'nobody']
          .filter((as) => as !== one)
          .map((as) => (
            <Button key={as} aria-pressed={other?.as === as} onClick={() => choose({ as, shown: as })}>
              {as}
            </Button>
          ))}
        {actor !== undefined && (
          <RowPicker
            tree={tree}
            label={`The ${actor.name} beside`}
            entities={[actor.name]}
            value={null}
            bySystem
            className="w-64"
            onPick={(row) => {
              if (row !== null)
                choose({ as: rowText({ entity: actor.name, keyType: actor.keyType, key: row.key }), shown: row.shown });
            }}
          />
        )}
        <span className="flex-1" />
        <Button onClick={onClose}>Close</Button>
      </header>
      {isLoading && <p className="mt-2 text-ink-2 italic">Asking as {other?.shown}…</p>}
      {error !== undefined && <p className="mt-2 text-harm">{failureMessage(error)}</p>}
      {data?.ok === false && (
        <p className="mt-2 text-harm">{[...data.findings.map(({ message }) => message), ...data.problems].join(' ')}</p>
      )}
      {data?.ok === true && other !== null && !isLoading && (
        <Rows tree={tree} rows={rows} page={result.page} pair={[one, other.as]} shown={[one, other.shown]} entity={entity} />
      )}
    </section>
  );
}

interface RowsProps {
  readonly tree: string;
  readonly rows: readonly SeenBeside[];
  /** The answers are pages of more. */
  readonly page: boolean;
  readonly pair: readonly [string, string];
  readonly shown: readonly [string, string];
  readonly entity: DesignView['entities'][number] | null;
}

const MOST_ROWS = 200;

function Rows({ tree, rows, page, pair, shown, entity }: RowsProps) {
  const [asked, setAsked] = useState<string | null>(null);
  const onlyOne = rows.filter(({ other }) => !other).length;
  const onlyOther = rows.filter(({ one }) => !one).length;
  const differ = rows.filter(({ differs }) => differs).length;
  return (
    <>
      <p role="status" aria-label="Beside" className="mt-2 font-serif">
        {onlyOne === 0 && onlyOther === 0 && differ === 0
          ? `Both see the same ${rows.length.toLocaleString('en')}.`
          : `${onlyOne.toLocaleString('en')} only ${shown[0]}, ${onlyOther.toLocaleString('en')} only ${shown[1]}, ${(rows.length - onlyOne - onlyOther).toLocaleString('en')} both${differ > 0 ? `, of which ${differ.toLocaleString('en')} not alike` : ''}.`}
      </p>
      {page && (
        <p className="text-small text-ink-2">
          Each is a page: what one lacks may stand on another page of theirs. “why” tells of the row itself.
        </p>
      )}
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
                  {named !== null && <span className="font-mono">{named}</span>} {row.shown}
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
