import { useState } from 'react';
import type { Arrival, BroughtAgain } from '../../../contract/index.js';
import { failureMessage, useTakeInAgainMutation } from '../../app/api.js';
import { type BringInSource, useBringInAgain } from '../../app/bring-in.js';
import { useAppSelector } from '../../app/store.js';
import { Button } from '../../parts/button.js';
import { ChooseFile } from '../../parts/choose-file.js';
import { LineDiff } from '../../parts/line-diff.js';
import { WorkProgress } from '../bring-in/work-progress.js';

/** Brings the same database in again, shows what changed there as edits to the text, and takes them in. */
export function Again({ tree, arrival }: { readonly tree: string; readonly arrival: Arrival }) {
  const { progress, send } = useBringInAgain(tree);
  const [takeIn, taking] = useTakeInAgainMutation();
  const [found, setFound] = useState<BroughtAgain | null>(null);
  const [said, setSaid] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const text = useAppSelector((state) => state.workspace.text);

  const look = async (wanted: BringInSource) => {
    setProblem(null);
    setSaid(null);
    setFound(null);
    const brought = await send(wanted);
    if ('problem' in brought) setProblem(brought.problem);
    else setFound(brought.value);
  };
  const take = async ({ pending, basedOn, text: next }: BroughtAgain) => {
    const taken = await takeIn({ tree, pending, basedOn, text: next });
    if (taken.error !== undefined) {
      setProblem(failureMessage(taken.error));
      return;
    }
    setFound(null);
    setSaid('The text follows the database again, as a revision of its own; the revisions lead back.');
  };

  return (
    <section aria-labelledby="again">
      <h3 id="again" className="font-serif text-title font-semibold">
        When the database has changed
      </h3>
      <p className="mt-1 text-ink-2">
        Bring it in again: what changed there is shown as edits to the text, which keep your names, notes and queries.
      </p>
      {progress === null && found === null && (
        <div className="mt-3">
          {arrival.source.kind !== 'upload' ? (
            <Button onClick={() => void look({ kind: 'path', path: arrival.source.name })}>Look at it again</Button>
          ) : (
            <ChooseFile
              label="The same database, as it is now"
              accept=".db,.db3,.sqlite,.sqlite3,.sql"
              disabled={false}
              onChoose={(file) => void look({ kind: 'file', file })}
            />
          )}
        </div>
      )}
      {progress !== null && (
        <div className="mt-3">
          <WorkProgress progress={progress} />
        </div>
      )}
      {problem !== null && (
        <p role="alert" className="mt-3 border-l-3 border-harm bg-label p-3">
          {problem}
        </p>
      )}
      {said !== null && (
        <p role="status" className="mt-3 border-l-3 border-fine bg-label p-3">
          {said}
        </p>
      )}
      {found !== null && (
        <Changes
          found={found}
          uploaded={arrival.source.kind === 'upload'}
          text={text}
          busy={taking.isLoading}
          onTake={() => void take(found)}
          onLeave={() => setFound(null)}
        />
      )}
    </section>
  );
}

const SIGNS = { came: '+', went: '−', changed: '±', left: '▲' } as const;

function Changes({
  found,
  uploaded,
  text,
  busy,
  onTake,
  onLeave,
}: {
  readonly found: BroughtAgain;
  readonly uploaded: boolean;
  readonly text: string;
  readonly busy: boolean;
  onTake(): void;
  onLeave(): void;
}) {
  const left = found.changes.filter(({ kind }) => kind === 'left');
  const edits = found.changes.length - left.length;
  if (found.changes.length === 0)
    return (
      <div role="status" className="mt-3 border-l-3 border-fine bg-label p-3">
        <p>The tables are as they were. {uploaded ? 'Its rows may be others.' : 'Its rows are looked at as they are now.'}</p>
        {uploaded && (
          <Button className="mt-2" disabled={busy} onClick={onTake}>
            Look at this one from now on
          </Button>
        )}
      </div>
    );
  return (
    <section aria-label="What changed" className="mt-3 space-y-3">
      <ul className="border border-line bg-label text-small">
        {found.changes.map(({ kind, where, was, now, why }) => (
          <li key={`${kind} ${where} ${was ?? ''} ${now ?? ''}`} className="flex gap-3 border-b border-line px-3 py-1">
            <span aria-hidden className={kind === 'left' ? 'text-to-many' : 'text-ink-3'}>
              {SIGNS[kind]}
            </span>
            <span className="min-w-0">
              <span className="font-semibold">{where}</span>{' '}
              {kind === 'left' ? `is left as it is: ${why ?? ''}` : verb(kind, where, now ?? was)}
              <code className="block font-mono break-words whitespace-pre-wrap text-ink-2">{first(now ?? was)}</code>
            </span>
          </li>
        ))}
      </ul>
      <details className="border border-line bg-label">
        <summary className="cursor-pointer px-3 py-2">The text, line by line</summary>
        <div className="max-h-80 overflow-auto py-2">
          <LineDiff before={text} after={found.text} />
        </div>
      </details>
      <div className="flex gap-3">
        <Button strong disabled={busy} onClick={onTake}>
          Take in {edits === 1 ? 'the change' : `${edits} changes`}
        </Button>
        <Button disabled={busy} onClick={onLeave}>
          Leave the text
        </Button>
      </div>
    </section>
  );
}

/** What happens to a declaration: it comes or goes whole, or one of its lines does. */
function verb(kind: 'came' | 'went' | 'changed', where: string, text: string | null): string {
  const whole = text?.startsWith(`${where.split(' ')[0] ?? ''} `) === true;
  if (whole) return kind === 'came' ? 'comes' : kind === 'went' ? 'goes' : 'changes';
  return kind === 'came' ? 'gets' : kind === 'went' ? 'loses' : 'changes to';
}

/** The first line of what is said, and that there is more. */
function first(text: string | null): string {
  const [line = '', ...more] = (text ?? '').split('\n');
  return more.length === 0 ? line : `${line} …`;
}
