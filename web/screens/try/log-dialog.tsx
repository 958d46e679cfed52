import { useState } from 'react';
import type { LoggedShape, LogReport } from '../../../core/log/index.js';
import type { DialectName } from '../../../core/notation/index.js';
import { Button } from '../../parts/button.js';
import { ChooseFile } from '../../parts/choose-file.js';
import { Dialog } from '../../parts/dialog.js';
import { useLog } from './use-log.js';

/** Reads the statement log of an application, and tells what it says of the design. It stays in this browser. */
export default function LogDialog({
  text,
  dialect,
  onTry,
  onClose,
}: {
  readonly text: string;
  readonly dialect: DialectName | null;
  /** Puts a query into the editor. */
  onTry(query: string): void;
  onClose(): void;
}) {
  const { state, read, stop } = useLog(text, dialect);
  const [pasted, setPasted] = useState('');
  return (
    <Dialog title="A statement log" wide onClose={onClose}>
      <div className="min-h-0 overflow-auto px-5 py-4">
        <p className="text-ink-2">
          What an application of yours asked: plain SQL, a line each, with or without times, or the log that a PostgreSQL or
          MariaDB server writes. Nothing of it is run, and it does not leave this browser.
        </p>
        <div className="mt-3 grid grid-cols-2 gap-4">
          <ChooseFile label="A log file" accept=".log,.sql,.txt" disabled={state.kind === 'reading'} onChoose={read} />
          <div>
            <textarea
              aria-label="Or paste it"
              placeholder="select * from loans where borrower_id = 4"
              className="h-24 w-full border border-line-2 bg-sheet p-2 font-mono text-small"
              value={pasted}
              onChange={(event) => setPasted(event.target.value)}
            />
            <Button disabled={pasted.trim() === '' || state.kind === 'reading'} onClick={() => read(new Blob([pasted]))}>
              Read what is pasted
            </Button>
          </div>
        </div>
        {state.kind === 'reading' && (
          <p role="status" className="mt-3 flex items-center gap-3">
            Reading, {Math.round(state.share * 100)} %<Button onClick={stop}>Stop</Button>
          </p>
        )}
        {state.kind === 'failed' && <p className="mt-3 text-harm">It could not be read: {state.message}</p>}
        {state.kind === 'read' && <Report report={state.report} onTry={onTry} />}
      </div>
    </Dialog>
  );
}

function Report({ report, onTry }: { readonly report: LogReport; onTry(query: string): void }) {
  const { statements, shapes, onceForEachRow, costliest, withoutIndex } = report;
  if (statements === 0) return <p className="mt-3 text-harm">There is no statement in it.</p>;
  const asked = onceForEachRow.reduce((sum, { count }) => sum + count, 0);
  return (
    <div className="mt-4">
      <p role="status" aria-label="What the log says" className="font-serif text-[16px]">
        {statements.toLocaleString('en')} statements of {shapes.toLocaleString('en')} shapes
        {asked === 0
          ? '; none was asked once for each row over a relation of this design.'
          : `; ${asked.toLocaleString('en')} of them were asked once for each row.`}
      </p>
      <Part title="Asked once for each row" shapes={onceForEachRow}>
        {({ load }) =>
          load !== null && (
            <>
              {load.entity}.{load.role}, over <span className="font-mono">{load.relation}</span>:{' '}
              <button
                type="button"
                className="font-mono text-selected underline decoration-dotted underline-offset-2"
                onClick={() => onTry(`from ${load.entity}\n${load.line}`)}
              >
                {load.line}
              </button>
            </>
          )
        }
      </Part>
      <Part title="What cost most" shapes={costliest}>
        {() => null}
      </Part>
      <Part title="Without an index" shapes={withoutIndex}>
        {({ unindexed }) =>
          unindexed !== null && (
            <>
              in {unindexed.entity}: <span className="font-mono">{unindexed.line}</span>
            </>
          )
        }
      </Part>
    </div>
  );
}

function Part({
  title,
  shapes,
  children,
}: {
  readonly title: string;
  readonly shapes: readonly LoggedShape[];
  readonly children: (shape: LoggedShape) => React.ReactNode;
}) {
  if (shapes.length === 0) return null;
  return (
    <section aria-label={title} className="mt-3">
      <h3 className="font-semibold">{title}</h3>
      <ul>
        {shapes.slice(0, 50).map((one) => (
          <li key={one.shape} className="border-b border-line py-1">
            <span className="mr-3 inline-block min-w-20 text-right font-mono text-small">{one.count.toLocaleString('en')} ×</span>
            {one.milliseconds !== null && (
              <span className="mr-3 font-mono text-small text-ink-2">
                {one.milliseconds.toLocaleString('en', { maximumFractionDigits: 1 })} ms
              </span>
            )}
            <span>{children(one)}</span>
            <code className="block truncate pl-4 text-small text-ink-2" title={one.shape}>
              {one.shape}
            </code>
          </li>
        ))}
      </ul>
    </section>
  );
}
