import { useEffect, useRef, useState } from 'react';
import { useParams, useSearchParams } from 'react-router';
import type { KindsWay } from '../../../contract/index.js';
import { failureMessage, useCompareKindsQuery } from '../../app/api.js';
import { useRowsReady } from '../../app/rows-ready.js';
import { useClick } from '../../app/use-click.js';
import { Button } from '../../parts/button.js';
import { Sql } from '../../parts/sql.js';

/** The panel of the design, in the address, in which the ways are compared. */
const WAYS = 'ways';

/** The search part of an address under which the ways to store the kinds of a base are compared. */
export function withWays(before: URLSearchParams, base: string): URLSearchParams {
  const params = new URLSearchParams(before);
  params.set('select', `entity:${base}`);
  params.set('panel', WAYS);
  return params;
}

/** Four ways to store the kinds of a base, side by side, each made in a scratch database with the same rows. */
export function KindsCompared({ base }: { readonly base: string }) {
  const [search, setSearch] = useSearchParams();
  const asked = search.get('panel') === WAYS;
  const { tree = '' } = useParams();
  const ready = useRowsReady();
  const { data, error, isFetching } = useCompareKindsQuery({ tree, entity: base }, { skip: !asked || !ready });
  return (
    <section aria-label="Ways to store its kinds" className="mt-4 border-t border-line pt-3">
      <div className="flex items-baseline gap-3">
        <h3 className="font-serif font-semibold">Four ways to store its kinds</h3>
        {!asked && (
          <>
            <span className="text-small text-ink-2">
              each made in a scratch database with the rows of the samples, and asked the same
            </span>
            <Button
              className="ml-auto"
              disabled={!ready}
              onClick={() => setSearch((before) => withWays(before, base), { replace: true })}
            >
              Compare them
            </Button>
          </>
        )}
        {asked && isFetching && <span className="text-small text-ink-2">Making four databases, and asking each…</span>}
      </div>
      {error !== undefined && <p className="mt-1 text-small text-harm">{failureMessage(error)}</p>}
      {asked && data !== undefined && <Ways ways={data.ways} base={base} old={isFetching} />}
    </section>
  );
}

function Ways({ ways, base, old }: { readonly ways: readonly KindsWay[]; readonly base: string; readonly old: boolean }) {
  const [problems, setProblems] = useState<readonly string[]>([]);
  const [shown, setShown] = useState<string | null>(null);
  const whats = ways.find(({ asks }) => asks.length > 0)?.asks.map(({ what }) => what) ?? [];
  const top = useRef<HTMLDivElement>(null);
  // It stands below the SQL, and grows beyond what is seen when it arrives.
  useEffect(() => top.current?.scrollIntoView({ block: 'start' }), []);
  return (
    <div ref={top} className={`scroll-mt-10 ${old ? 'opacity-60' : ''}`}>
      <table className="mt-2 w-full border-collapse">
        <WayHeads ways={ways} base={base} onProblems={setProblems} />
        <tbody>
          <Measure name="tables" ways={ways} of={({ tables }) => tables} />
          <Measure name="columns" ways={ways} of={({ columns }) => columns} />
          <Measure
            name="empty cells"
            ways={ways}
            of={({ emptyShare }) => Math.round(emptyShare * 1000)}
            say={(thousandths) => `${(thousandths / 10).toFixed(1)} %`}
          />
          {whats.map((what, index) => (
            <AskRow
              key={what}
              what={what}
              asks={ways.map(({ storage, asks }) => ({ storage, ask: asks[index] }))}
              open={shown === what}
              onOpen={() => setShown(shown === what ? null : what)}
            />
          ))}
          <Measure name="statements for each" ways={ways} of={mostStatements} />
          <Measure name="bytes" ways={ways} of={({ bytes }) => bytes} say={(bytes) => bytes.toLocaleString('en')} />
          <Measure name="rules lost" ways={ways} of={({ lost }) => lost.length} />
        </tbody>
      </table>
      <p className="mt-1 text-small text-ink-3">The bold ones are the least of the four. Each question opens its SQL.</p>
      {problems.map((problem) => (
        <p key={problem} className="mt-1 text-small text-harm">
          {problem}
        </p>
      ))}
      {shown !== null && <AskedSql ways={ways} what={shown} />}
      <Remarks ways={ways} />
    </div>
  );
}

/** The ways by name, each with a button to choose it. */
function WayHeads({
  ways,
  base,
  onProblems,
}: {
  readonly ways: readonly KindsWay[];
  readonly base: string;
  onProblems(problems: readonly string[]): void;
}) {
  const click = useClick();
  return (
    <thead>
      <tr>
        <th />
        {ways.map((way) => (
          <th key={way.storage} className="pb-1 pl-2 text-right align-bottom font-serif font-semibold whitespace-nowrap">
            {way.storage}
            <br />
            {way.chosen ? (
              <span className="text-small font-normal text-kinds">as it is now</span>
            ) : (
              <Button
                className="px-2 py-0 text-small font-normal"
                disabled={way.problem !== null}
                aria-label={`Choose ${way.storage}`}
                title={way.needs ?? undefined}
                onClick={() =>
                  void click({ kind: 'kinds storage', entity: base, storage: way.storage }, `kinds in ${way.storage}`).then(
                    onProblems,
                  )
                }
              >
                Choose
              </Button>
            )}
          </th>
        ))}
      </tr>
    </thead>
  );
}

/** One figure of each way, the least of them bold. */
function Measure({
  name,
  ways,
  of,
  say = String,
}: {
  readonly name: string;
  readonly ways: readonly KindsWay[];
  of(way: KindsWay): number;
  say?(figure: number): string;
}) {
  const least = Math.min(...ways.filter(({ problem }) => problem === null).map(of));
  return (
    <tr>
      <th className="border-b border-line py-1 pr-3 text-left font-normal text-ink-2">{name}</th>
      {ways.map((way) => (
        <td key={way.storage} className={`${CELL} ${way.problem === null && of(way) === least ? 'font-bold text-fine' : ''}`}>
          {way.problem === null ? say(of(way)) : '–'}
        </td>
      ))}
    </tr>
  );
}

const CELL = 'border-b border-line pl-2 py-1 text-right font-mono text-small';

/** What a question costs each way; its name opens the SQL. */
function AskRow({
  what,
  asks,
  open,
  onOpen,
}: {
  readonly what: string;
  readonly asks: readonly { readonly storage: string; readonly ask: KindsWay['asks'][number] | undefined }[];
  readonly open: boolean;
  onOpen(): void;
}) {
  return (
    <tr>
      <th className="border-b border-line py-1 pr-3 text-left font-normal text-ink-2">
        <button type="button" className="text-left hover:underline" aria-expanded={open} onClick={onOpen}>
          {what}
        </button>
      </th>
      {asks.map(({ storage, ask }) => (
        <td
          key={storage}
          className={`${CELL} whitespace-nowrap`}
          title={ask === undefined ? undefined : `${ask.rows} rows, ${ask.milliseconds.toFixed(2)} ms`}
        >
          {ask === undefined ? (
            '–'
          ) : (
            <>
              {count(ask.tables, 'table')}
              <br />
              {count(ask.joins, 'join')}, {ask.milliseconds.toFixed(1)} ms
            </>
          )}
        </td>
      ))}
    </tr>
  );
}

/** The SQL of one question, for each way. */
function AskedSql({ ways, what: asked }: { readonly ways: readonly KindsWay[]; readonly what: string }) {
  return (
    <div className="mt-2 grid grid-cols-2 gap-3">
      {ways.map((way) => {
        const ask = way.asks.find(({ what }) => what === asked);
        return ask === undefined ? null : (
          <div key={way.storage} className="border border-line bg-sheet p-3">
            <h4 className="text-small text-ink-3">
              {asked}, {way.storage}
            </h4>
            <Sql text={ask.sql} label={`${asked}, ${way.storage}`} />
          </div>
        );
      })}
    </div>
  );
}

/** What each way needs, and what the database would no longer hold. */
function Remarks({ ways }: { readonly ways: readonly KindsWay[] }) {
  return (
    <ul className="mt-2 text-small leading-5">
      {ways.flatMap((way) => [
        ...(way.problem === null
          ? []
          : [<Said key={`${way.storage} problem`} way={way.storage} text={`cannot be made: ${way.problem}`} />]),
        ...(way.needs === null ? [] : [<Said key={`${way.storage} needs`} way={way.storage} text={way.needs} />]),
        ...(way.lost.length === 0
          ? []
          : [
              <Said key={`${way.storage} lost`} way={way.storage} text={`the database no longer holds ${way.lost.join('; ')}`} />,
            ]),
      ])}
    </ul>
  );
}

function mostStatements({ asks }: KindsWay): number {
  return Math.max(0, ...asks.map(({ statements }) => statements));
}

function count(number: number, word: string): string {
  return `${number} ${word}${number === 1 ? '' : 's'}`;
}

function Said({ way, text }: { readonly way: string; readonly text: string }) {
  return (
    <li>
      <span className="font-serif font-semibold">{way}</span> <span className="text-ink-2">· {text}.</span>
    </li>
  );
}
