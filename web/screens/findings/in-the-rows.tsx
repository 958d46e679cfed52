import { useMemo, useState } from 'react';
import { Link, useParams } from 'react-router';
import type { RowsChecked } from '../../../contract/index.js';
import { whyOf } from '../../../core/checks/index.js';
import { positions } from '../../../core/notation/index.js';
import { failureMessage, useCheckRowsQuery } from '../../app/api.js';
import { rowLink, rowsLink } from '../../app/links.js';
import { useRowsReady } from '../../app/rows-ready.js';
import { useAppSelector } from '../../app/store.js';
import { Button } from '../../parts/button.js';
import { storedText } from '../../parts/field-value.js';
import { Sql } from '../../parts/sql.js';
import { WEIGHT_SIGNS } from '../../parts/weights.js';
import { MeanIt } from './mean-it.js';

type Checked = Extract<RowsChecked, { ok: true }>;
type RowFinding = Checked['findings'][number];

/** What the rows of the database in use do not hold to. A database of one's own is looked at at once, a server when a person says so. */
export function InTheRows({ text }: { readonly text: string }) {
  const { tree = '' } = useParams();
  const inUse = useAppSelector((state) => state.workspace.tree?.inUse ?? null);
  const ready = useRowsReady();
  const failed = useAppSelector((state) =>
    state.workspace.database?.status === 'failed' ? state.workspace.database.message : null,
  );
  const [asked, setAsked] = useState(false);
  const waits = inUse?.kind === 'server' && !asked;
  const { data, error, isFetching, refetch } = useCheckRowsQuery({ tree }, { skip: !ready || waits });
  const again = waits || isFetching || !ready ? null : () => void refetch();
  return (
    <section aria-label="In the rows" className="mt-5">
      <h3 className="flex items-baseline gap-3 font-serif text-title font-semibold">
        In the rows
        {again !== null && (
          <button type="button" className="font-sans text-small font-normal text-selected hover:underline" onClick={again}>
            Look again
          </button>
        )}
      </h3>
      {waits ? (
        <div className="mt-2 flex items-center gap-4 border border-line bg-label px-5 py-3">
          <Button strong disabled={!ready} onClick={() => setAsked(true)}>
            Look at the rows
          </Button>
          <p className="text-ink-2">
            Keys that lead nowhere, rules that rows break, marks that no kind has: each is one counting statement, and some read
            whole tables of {inUse?.address}.
          </p>
        </div>
      ) : failed !== null ? (
        <p className="mt-2 text-ink-2">There are no rows to look at: {failed}</p>
      ) : error !== undefined ? (
        <p className="mt-2 text-harm">{failureMessage(error)}</p>
      ) : !ready || data === undefined ? (
        <p role="status" className="mt-2 text-ink-2">
          Looking at the rows…
        </p>
      ) : data.ok ? (
        <div className={isFetching ? 'opacity-60' : ''}>
          <Found checked={data} text={text} />
        </div>
      ) : (
        <p className="mt-2 text-ink-2">{data.problem}</p>
      )}
    </section>
  );
}

function Found({ checked, text }: { readonly checked: Checked; readonly text: string }) {
  const { findings, unanswered, asked, milliseconds } = checked;
  const lineOf = useLineOf(text);
  const { tree = '' } = useParams();
  const spent = milliseconds < 1000 ? `${Math.round(milliseconds)} ms` : `${(milliseconds / 1000).toFixed(1)} s`;
  return (
    <>
      <p className="mt-1 text-ink-2">
        {asked === 0
          ? 'Nothing in the text has to be looked for in the rows.'
          : findings.length === 0
            ? `✓ ${asked} question${asked === 1 ? '' : 's'} asked of the rows in ${spent}: keys, kinds, pairs, rules and promises all hold.`
            : `${findings.length} of ${asked} questions found rows that do not hold, in ${spent}.`}
      </p>
      {unanswered.map(({ message, span }) => (
        <p key={`${span.start} ${message}`} className="mt-1 text-small text-to-many">
          ▲{' '}
          <Link to={`/tree/${tree}/design?at=${span.start}`} className="font-mono text-selected hover:underline">
            line {lineOf(span.start)}
          </Link>{' '}
          could not be asked: {message}
        </p>
      ))}
      <ul>
        {findings.map((finding) => (
          <RowFindingItem key={`${finding.code} ${finding.message}`} finding={finding} line={lineOf(finding.span.start)} />
        ))}
      </ul>
    </>
  );
}

/** A value as it stands in a line; what does not fit its type as it is stored. */
function exampleText(value: unknown): string {
  if (value === null) return '–';
  if (typeof value === 'object' && 'asStored' in value) return storedText(value.asStored);
  return typeof value === 'object' ? JSON.stringify(value) : String(value);
}

function useLineOf(text: string): (offset: number) => number {
  const positionOf = useMemo(() => positions(text), [text]);
  return (offset) => positionOf(Math.min(offset, text.length)).line;
}

function RowFindingItem({ finding, line }: { readonly finding: RowFinding; readonly line: number }) {
  const { tree = '' } = useParams();
  const { code, weight, message, span, rows, entity, condition, examples, sql } = finding;
  const why = whyOf(code);
  const [answering, setAnswering] = useState(false);
  const [sign, colour] = WEIGHT_SIGNS[weight];
  return (
    <li className="grid grid-cols-[7.5rem_minmax(0,1fr)] gap-x-5 border-b border-line py-3">
      <div>
        <Link to={`/tree/${tree}/design?at=${span.start}`} className="font-mono text-small text-selected hover:underline">
          line {line}
        </Link>
        <p className="mt-0.5 text-small text-ink-3">{code.replaceAll('-', ' ')}</p>
      </div>
      <div className="max-w-[92ch]">
        <p>
          <span className={colour}>{sign} </span>
          <span className="sr-only">{weight}: </span>
          {message}
        </p>
        {why !== null && <p className="mt-1 font-serif text-ink-2 italic">{why}</p>}
        <p className="mt-1.5 flex flex-wrap items-baseline gap-x-4 gap-y-1 text-small">
          <span className="text-ink-3">{rows > examples.length ? 'such as' : rows === 1 ? 'this one' : 'these'}</span>
          {examples.map(({ key, values }) => {
            const told = values.map(({ column, value }) => `${column} ${exampleText(value)}`).join(', ');
            return (
              <span key={`${String(key)} ${told}`} className="font-mono">
                {entity !== null && (
                  <Link to={rowLink(tree, entity, key)} className="text-selected hover:underline">
                    {entity} {String(key)}
                  </Link>
                )}
                {told !== '' && <span className="text-ink-2">{entity === null ? told : ` (${told})`}</span>}
              </span>
            );
          })}
          {entity !== null && condition !== null && (
            <Link to={rowsLink(tree, entity, condition)} className="text-selected underline underline-offset-2">
              {rows === 1 ? 'see it' : `see all ${rows.toLocaleString('en')}`} in Rows
            </Link>
          )}
          <button type="button" className="text-selected hover:underline" onClick={() => setAnswering(!answering)}>
            It is meant so…
          </button>
        </p>
        {answering && <MeanIt findings={[finding]} onDone={() => setAnswering(false)} />}
        <details className="mt-1.5 text-small">
          <summary className="cursor-pointer text-ink-2">How they were counted</summary>
          <div className="mt-1 border-l-2 border-line-2 pl-3">
            <Sql text={sql} label="counting statement" />
          </div>
        </details>
      </div>
    </li>
  );
}
