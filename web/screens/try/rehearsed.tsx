import type { CommandsDone, WrittenRow } from '../../../contract/index.js';
import { Refusal } from '../../app/refusal.js';
import { Written } from '../../app/written.js';
import { Panes } from '../../parts/panes.js';
import { LogPane } from './log.js';
import type { RehearsalOutcome } from './use-rehearsal.js';

type Done = Extract<CommandsDone, { ok: true }>;

interface RehearsedProps {
  readonly shown: RehearsalOutcome;
  readonly running: boolean;
  /** Where the person is in the commands; null where that is nowhere. */
  readonly at: number | null;
  onGo(span: { readonly start: number; readonly end: number }): void;
  /** Takes commands up in the editor that were carried out before. */
  onTakeUp(text: string): void;
}

const NONE: readonly never[] = [];

/** What the commands do, or would do: a sentence, each row with what filled its values, and every statement. */
export function Rehearsed({ shown, running, at, onGo, onTakeUp }: RehearsedProps) {
  const result = shown.kind === 'result' ? shown.result : null;
  const warnings = result?.findings.filter(({ weight }) => weight !== 'error') ?? [];
  return (
    <div className="flex h-full min-h-0 flex-col bg-sheet">
      <div className="shrink-0 border-b border-line-2 px-5 py-2">
        <div role="status" aria-label="Outcome" className="font-serif text-[16px]">
          {running ? 'Carrying them out…' : <Outcome shown={shown} />}
        </div>
        {result?.ok === true && !running && warnings.length > 0 && (
          <ul aria-label="Warnings" className="mt-1 text-small text-to-many">
            {warnings.map(({ message }) => (
              <li key={message}>▲ {message}</li>
            ))}
          </ul>
        )}
      </div>
      <div className="min-h-0 flex-1">
        <Panes
          name="answer"
          direction="horizontal"
          share={54}
          first={
            <section aria-label="What the commands do" className="flex h-full min-h-0 flex-col bg-label">
              {result?.ok === true && <Along along={result.along} />}
              {result?.ok === true && shown.kind === 'result' && <Lines text={shown.text} result={result} />}
              {result?.ok === false && shown.kind === 'result' && <Reached text={shown.text} reached={result.reached} />}
              <div className="mt-auto max-h-44 shrink-0 overflow-auto px-4 pb-3">
                <Written onTakeUp={onTakeUp} />
              </div>
            </section>
          }
          second={<LogPane of="command" entries={result?.log ?? NONE} before={null} onGo={onGo} at={at} onMeasure={null} />}
        />
      </div>
    </div>
  );
}

function Outcome({ shown }: { readonly shown: RehearsalOutcome }) {
  if (shown.kind === 'none')
    return <span className="text-ink-2 italic">Rehearse the commands to see what they would do to which rows.</span>;
  if (shown.kind === 'failed') return <span className="whitespace-pre-wrap text-harm">{shown.message}</span>;
  const { result } = shown;
  if (!result.ok) {
    const errors = result.findings.filter(({ weight }) => weight === 'error' || result.problems.length === 0);
    return (
      <span className="whitespace-pre-wrap text-harm">
        <Refusal text={[...errors.map(({ message }) => message), ...result.problems].join('\n')} />
      </span>
    );
  }
  return (
    <>
      {sentenceOf(result)} {shown.stays ? 'Written.' : 'Rehearsed: nothing of it stays.'}
    </>
  );
}

/** `1 row created, 2 linked, by 4 statements that write.` */
function sentenceOf({ lines, log }: Done): string {
  const counts = new Map<string, number>();
  for (const { rows, more } of lines) {
    for (const { change } of rows) counts.set(change, (counts.get(change) ?? 0) + 1);
    const last = rows.at(-1);
    if (last !== undefined && more > 0) counts.set(last.change, (counts.get(last.change) ?? 0) + more);
  }
  if (counts.size === 0) return 'No row was meant.';
  const parts = Array.from(counts, ([change, count], index) =>
    index === 0
      ? `${count.toLocaleString('en')} row${count === 1 ? '' : 's'} ${change}`
      : `${count.toLocaleString('en')} ${change}`,
  );
  return `${parts.join(', ')}; ${log.length.toLocaleString('en')} statement${log.length === 1 ? '' : 's'}.`;
}

/** What the database would do to other rows of itself. */
function Along({ along }: Pick<Done, 'along'>) {
  if (along.length === 0) return null;
  return (
    <section aria-label="What goes along" className="shrink-0 border-b border-line px-4 py-2.5">
      <h3 className="font-serif text-ink-2 italic">By the rules of the relations, as counted before and after</h3>
      <ul className="mt-1">
        {along.map(({ of, role, rows }) => (
          <li key={`${of} ${role}`}>
            <span className="font-semibold">{rows.toLocaleString('en')}</span> of <span className="font-mono">{of}</span>{' '}
            {role === null ? (rows === 1 ? 'goes along' : 'go along') : `lose their ${role}`}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Lines({ text, result }: { readonly text: string; readonly result: Done }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region has to be reached by the keyboard
    <ol tabIndex={0} aria-label="Commands" className="min-h-0 flex-1 overflow-auto">
      {result.lines.map(({ rows, more, span }) => (
        <li key={span.start} className="border-b border-line px-4 py-2.5">
          <p className="truncate font-mono text-small text-ink-2" title={text.slice(span.start, span.end)}>
            {text.slice(span.start, span.end)}
          </p>
          {rows.length === 0 && <p className="mt-1 text-ink-2 italic">No row was meant.</p>}
          <ul>
            {rows.map((row) => (
              <Row key={`${row.change} ${row.entity} ${row.key} ${row.link?.key}`} row={row} />
            ))}
          </ul>
          {more > 0 && <p className="mt-1 text-small text-ink-2">and {more.toLocaleString('en')} more</p>}
        </li>
      ))}
    </ol>
  );
}

/** The commands that were come to, of which the last was refused. */
function Reached({ text, reached }: { readonly text: string; readonly reached: readonly { start: number; end: number }[] }) {
  return (
    <ol aria-label="Commands">
      {reached.map(({ start, end }, index) => {
        const refused = index === reached.length - 1;
        return (
          <li key={start} className="border-b border-line px-4 py-2.5">
            <p className="truncate font-mono text-small text-ink-2" title={text.slice(start, end)}>
              {text.slice(start, end)}
            </p>
            <p className={`mt-1 ${refused ? 'text-harm' : 'text-ink-2 italic'}`}>{refused ? 'Refused' : 'Taken back'}</p>
          </li>
        );
      })}
    </ol>
  );
}

/** How what became of a row is marked. */
const MARKS: Readonly<Record<WrittenRow['change'], string>> = {
  created: '+',
  found: '=',
  updated: '~',
  deleted: '−',
  linked: '+',
  'already linked': '=',
  unlinked: '−',
  'not linked': '=',
};

const BY: Readonly<Record<WrittenRow['cells'][number]['by'], string>> = {
  given: 'given',
  default: 'default',
  owner: 'owner',
  pin: 'pinned by a wall',
  engine: 'number of the engine',
  computed: 'computed',
};

function Row({ row }: { readonly row: WrittenRow }) {
  const { change, entity, key, link, cells, before, after } = row;
  const shown = (after ?? before)?.['~shown'];
  return (
    <li className="mt-1.5">
      <p>
        <span aria-hidden className="mr-2 inline-block w-3 text-center font-mono text-ink-2">
          {MARKS[change]}
        </span>
        <span className="font-semibold">{change}</span>{' '}
        <span className="font-mono">
          {entity}({key}){link !== null && `.${link.role}: ${link.entity}(${link.key})`}
        </span>
        {link === null && typeof shown === 'string' && <span className="ml-2 font-serif text-ink-2 italic">{shown}</span>}
      </p>
      {change !== 'found' && cells.length > 0 && (
        <table className="mt-1 ml-5 font-mono text-small" aria-label={`Values of ${entity}(${key})`}>
          <tbody>
            {cells.map(({ name, by, value }) => (
              <tr key={name}>
                <th scope="row" className="pr-4 text-left font-normal text-ink-2">
                  {name}
                </th>
                <td className="max-w-72 truncate pr-4">
                  {change === 'updated' && before !== null && name in before && (
                    <>
                      <del className="text-ink-2">{written(before[name])}</del> <span aria-hidden>→ </span>
                    </>
                  )}
                  {written(value)}
                </td>
                <td className="font-sans text-ink-2 italic">{BY[by]}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </li>
  );
}

function written(value: unknown): string {
  return value === null || value === undefined ? '–' : typeof value === 'string' ? value : JSON.stringify(value);
}
