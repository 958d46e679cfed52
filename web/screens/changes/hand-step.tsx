import { useId, useState } from 'react';
import type { DesignDatabase, PlannedChanges } from '../../../contract/index.js';
import { readAnswers, writtenHandStep } from '../../../core/changes/index.js';
import { Button } from '../../parts/button.js';
import { Dialog } from '../../parts/dialog.js';

type Place = 'before' | 'instead of' | 'after' | 'before plan' | 'after plan';

const PLACES: readonly { readonly place: Place; readonly words: string }[] = [
  { place: 'before', words: 'before it' },
  { place: 'instead of', words: 'in its place' },
  { place: 'after', words: 'after it' },
  { place: 'before plan', words: 'before the whole plan' },
  { place: 'after plan', words: 'after the whole plan' },
];

/** A statement that a person writes, to stand at one of the plan, with what takes it back. It becomes lines of the answers. */
export function HandStepDialog({
  statement,
  isOnly,
  dialect,
  onSay,
  onClose,
}: {
  readonly statement: PlannedChanges['operations'][number];
  /** Whether no other statement of the table is told by the same words: only then can one take its place. */
  readonly isOnly: boolean;
  readonly dialect: DesignDatabase['dialect'];
  onSay(lines: string): void;
  onClose(): void;
}) {
  const [place, setPlace] = useState<Place>('before');
  const [sql, setSql] = useState('');
  const [back, setBack] = useState('');
  const [isOneWay, setOneWay] = useState(false);
  const [problem, setProblem] = useState<string | null>(null);
  const name = useId();
  const { what, table } = statement;
  const isWhole = place === 'before plan' || place === 'after plan';
  const written = writtenHandStep({
    on: dialect,
    where: place === 'before plan' ? 'before' : place === 'after plan' ? 'after' : place,
    table: isWhole ? null : table,
    what: isWhole ? null : what,
    sql,
    back: isOneWay ? null : back,
  });
  const take = () => {
    // What is read again is what the plan will read.
    const [fault] = readAnswers(written).faults;
    if (fault !== undefined) setProblem(fault.message);
    else {
      onSay(written);
      onClose();
    }
  };
  const area = 'mt-1 block w-full resize-y rounded-sm border border-line-2 bg-sheet px-2 py-1 font-mono text-small';
  return (
    <Dialog title={`By hand, at: ${what}`} onClose={onClose}>
      <form
        className="space-y-4 px-5 py-4"
        onSubmit={(event) => {
          event.preventDefault();
          take();
        }}
      >
        <fieldset>
          <legend className="text-small text-ink-2">Where it stands</legend>
          <div className="mt-1 flex flex-wrap gap-x-5 gap-y-1">
            {PLACES.filter((one) => isOnly || one.place !== 'instead of').map((one) => (
              <label key={one.place} className="flex items-baseline gap-1.5">
                <input
                  type="radio"
                  name={name}
                  checked={place === one.place}
                  onChange={() => {
                    setPlace(one.place);
                    if (one.place === 'instead of' && sql === '') setSql(statement.sql);
                  }}
                />
                {one.words}
              </label>
            ))}
          </div>
        </fieldset>
        <label className="block">
          <span className="text-small text-ink-2">Its statement, one alone</span>
          <textarea
            className={`${area} h-28`}
            aria-label="Statement"
            spellCheck={false}
            value={sql}
            onChange={(event) => setSql(event.target.value)}
          />
        </label>
        <div>
          <label className="block">
            <span className="text-small text-ink-2">What takes it back, when the plan is</span>
            <textarea
              className={`${area} h-16 disabled:opacity-50`}
              aria-label="Way back"
              spellCheck={false}
              disabled={isOneWay}
              value={isOneWay ? '' : back}
              onChange={(event) => setBack(event.target.value)}
            />
          </label>
          <label className="mt-1 flex items-baseline gap-2">
            <input type="checkbox" checked={isOneWay} onChange={(event) => setOneWay(event.target.checked)} />
            It has no way back: what it did stays
          </label>
        </div>
        <p className="text-small text-ink-2">
          It is carried out with the plan, in its transaction where the engine has one, and rehearsed with it. In the end the
          tables have to be as the text says.
        </p>
        {problem !== null && (
          <p role="alert" className="border-l-3 border-harm bg-sheet px-3 py-2">
            {problem}
          </p>
        )}
        <p className="flex justify-end gap-3">
          <Button onClick={onClose}>Leave it</Button>
          <Button strong type="submit" disabled={sql.trim() === '' || (!isOneWay && back.trim() === '')}>
            Put it in
          </Button>
        </p>
      </form>
    </Dialog>
  );
}
