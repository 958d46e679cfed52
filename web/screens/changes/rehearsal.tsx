import type { PlannedChanges, PlanRehearsed } from '../../../contract/index.js';
import { rowsText, timeText } from './verdicts.js';

type Rehearsed = Extract<PlanRehearsed, { kind: 'rehearsed' }>;

/** What came of a plan on a copy: each table before and after, rows side by side, and how long each statement took. */
export function RehearsalView({ plan, rehearsed }: { readonly plan: PlannedChanges; readonly rehearsed: Rehearsed }) {
  const { milliseconds, tables, unheld, part } = rehearsed;
  const total = milliseconds.reduce((sum, one) => sum + one, 0);
  return (
    <div className="space-y-5 px-6 py-4">
      <div>
        <p role="status" aria-label="Rehearsal" className="font-serif text-title">
          ✓ Rehearsed on a copy of the rows in {timeText(total)}: it reads back as it should. Nothing of it stays.
        </p>
        {part !== null && <p className="mt-1 text-to-many">▲ {part}</p>}
        {unheld.length === 0 ? (
          <p className="mt-1 text-ink-2">Every key leads somewhere, and every rule of the text is held.</p>
        ) : (
          <ul aria-label="What the rows do not hold to" className="mt-1 text-to-many">
            {unheld.map((message) => (
              <li key={message}>▲ {message}</li>
            ))}
          </ul>
        )}
      </div>
      <section aria-label="Tables before and after">
        <h3 className="border-b border-line-2 pb-1 font-serif font-semibold">Rows before and after</h3>
        <ul>
          {tables.map((table) => (
            <li key={`${table.before} ${table.after}`} className="border-b border-line py-2 last:border-0">
              <p className="flex gap-3">
                <span className="font-mono text-small font-semibold break-all">{nameOf(table)}</span>
                <span className="ml-auto font-mono text-small whitespace-nowrap">
                  {table.before === null ? 'new' : rowsText(table.rowsBefore)} →{' '}
                  {table.after === null ? 'gone' : rowsText(table.rowsAfter)}
                </span>
              </p>
              {table.changed.map((row) => (
                <SideBySide key={row.key} row={row} />
              ))}
            </li>
          ))}
        </ul>
      </section>
      <section aria-label="Statements">
        <h3 className="border-b border-line-2 pb-1 font-serif font-semibold">Statements, in working order</h3>
        <ol className="font-mono text-small">
          {plan.operations.map(({ what, table, sql }, at) => (
            <li key={`${at} ${sql}`} className="flex gap-3 border-b border-line py-0.5 last:border-0" title={sql}>
              <span className="w-16 shrink-0 text-right text-ink-2">{timeText(milliseconds[at] ?? 0)}</span>
              <span className="min-w-0 truncate">
                {table === null ? '' : `${table}: `}
                {what}
              </span>
            </li>
          ))}
        </ol>
      </section>
    </div>
  );
}

function nameOf({ before, after }: Rehearsed['tables'][number]): string {
  if (before === null || before === after) return after ?? '';
  return after === null ? before : `${before}, then ${after}`;
}

function isSame(one: unknown, other: unknown): boolean {
  return JSON.stringify(one ?? null) === JSON.stringify(other ?? null);
}

/** A row before and after, with what differs marked. */
function SideBySide({ row }: { readonly row: Rehearsed['tables'][number]['changed'][number] }) {
  const { key, before, after } = row;
  // What stays as it was is in nobody's way; of a row that goes all is shown.
  const names = Array.from(new Set([...Object.keys(before), ...Object.keys(after ?? {})])).filter(
    (name) => after === null || !(name in before && name in after && isSame(before[name], after[name])),
  );
  return (
    <div className="mt-1 overflow-x-auto">
      <table aria-label={`Row ${key}`} className="font-mono text-small">
        <thead>
          <tr className="text-left text-ink-3">
            <th scope="col" className="pr-4 font-normal">
              {key}
            </th>
            {names.map((name) => (
              <th key={name} scope="col" className="pr-4 font-normal">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <RowLine head="before" names={names} values={before} other={after ?? {}} />
          {after === null ? (
            <tr>
              <th scope="row" className="pr-4 text-left font-normal text-ink-2">
                after
              </th>
              <td colSpan={names.length} className="text-harm">
                ✕ gone
              </td>
            </tr>
          ) : (
            <RowLine head="after" names={names} values={after} other={before} />
          )}
        </tbody>
      </table>
    </div>
  );
}

function RowLine({
  head,
  names,
  values,
  other,
}: {
  readonly head: string;
  readonly names: readonly string[];
  readonly values: Readonly<Record<string, unknown>>;
  readonly other: Readonly<Record<string, unknown>>;
}) {
  return (
    <tr>
      <th scope="row" className="pr-4 text-left font-normal text-ink-2">
        {head}
      </th>
      {names.map((name) => {
        const value = values[name];
        const isOther = !isSame(value, other[name]);
        const shown = value === null || value === undefined ? '–' : String(value);
        return (
          <td
            key={name}
            className={`max-w-56 truncate pr-4 ${isOther ? 'font-semibold text-selected underline decoration-dotted underline-offset-2' : 'text-ink-2'}`}
            title={value === undefined ? 'no such column' : value === null ? 'nothing' : shown}
          >
            {value === undefined ? <span className="text-ink-3 italic">no column</span> : shown.slice(0, 200)}
          </td>
        );
      })}
    </tr>
  );
}
