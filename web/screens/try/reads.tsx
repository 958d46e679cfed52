import { useState } from 'react';
import type { QueryRun, ReadsChecked } from '../../../contract/index.js';
import { withLines } from '../../../core/reads/index.js';
import { failureMessage, useCheckReadsMutation } from '../../app/api.js';
import { Button } from '../../parts/button.js';
import { Input } from '../../parts/input.js';

/** What the page reads: paths that are held against what the query loads, and the load that is lacking. */
export default function ReadsPanel({
  tree,
  run,
  onMend,
  onClose,
}: {
  readonly tree: string;
  readonly run: QueryRun;
  /** Puts a query in place of the one that was run, and runs it. */
  onMend(text: string): void;
  onClose(): void;
}) {
  const [check, { data, error, isLoading }] = useCheckReadsMutation();
  const [paths, setPaths] = useState('');
  const { query } = run;
  return (
    <section
      aria-label="What the page reads"
      className="max-h-[50%] shrink-0 overflow-auto border-b border-line-2 bg-label px-5 py-3"
    >
      <header className="flex items-baseline gap-4">
        <h2 className="shrink-0 font-semibold">What the page reads</h2>
        <form
          className="flex min-w-0 flex-1 items-baseline gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            void check({ tree, ask: { run, paths } });
          }}
        >
          <Input
            code
            aria-label="Paths that the page reads"
            className="min-w-0 flex-1"
            placeholder="borrower.name, instrument.maker.name, due_on"
            value={paths}
            onChange={(event) => setPaths(event.target.value)}
          />
          <Button type="submit" disabled={isLoading}>
            {isLoading ? 'Comparing…' : 'Compare'}
          </Button>
        </form>
        <Button onClick={onClose}>Close</Button>
      </header>
      {error !== undefined && <p className="mt-2 text-small text-harm">{failureMessage(error)}</p>}
      {data !== undefined && (
        <Checked data={data} onMend={query.kind === 'text' ? (lines) => onMend(withLines(query.text, lines)) : null} />
      )}
      {data === undefined && error === undefined && (
        <p className="mt-2 text-small text-ink-2">
          Name what the page touches of each row. What is not loaded is asked for once for each row, and counted here on these
          rows.
        </p>
      )}
    </section>
  );
}

function Checked({
  data,
  onMend,
}: {
  readonly data: ReadsChecked;
  readonly onMend: ((lines: readonly string[]) => void) | null;
}) {
  if (!data.ok) {
    const messages = [
      ...data.findings.filter(({ weight }) => weight === 'error').map(({ message }) => message),
      ...data.problems,
    ];
    return <p className="mt-2 whitespace-pre-wrap text-small text-harm">{messages.join('\n')}</p>;
  }
  const { lines, unloaded, unread, wide } = data;
  return (
    <>
      <p role="status" aria-label="As the page reads it" className="mt-2 font-serif text-[16px]">
        {data.sentence}
      </p>
      <ul className="mt-1 text-small text-ink-2">
        {unloaded.map(({ path, statements }) => (
          <li key={path}>
            <span className="font-mono text-to-many">▲ {path}</span>: {statements.toLocaleString('en')} statements, one for each
            row
          </li>
        ))}
        {unread.map(({ path, rows, bytes }) => (
          <li key={path}>
            <span className="font-mono">{path}</span> is loaded and never read: {rows.toLocaleString('en')} rows,{' '}
            {(bytes / 1000).toFixed(1)} kB
          </li>
        ))}
        {wide.map(({ path, fields }) => (
          <li key={path}>
            A few fields would do: <span className="font-mono">{`load ${path} (${fields.join(', ')})`}</span>
          </li>
        ))}
      </ul>
      {lines.length > 0 && onMend !== null && (
        <Button className="mt-2" onClick={() => onMend(lines)}>
          Add “{lines.join('”, “')}” and run
        </Button>
      )}
    </>
  );
}
