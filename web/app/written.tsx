import { useState } from 'react';
import type { WrittenCommands } from '../../contract/index.js';
import { failureMessage, useTakeBackMutation } from './api.js';
import { type State, useAppSelector } from './store.js';

/** What was written into the scratch database, the newest first: it can be taken back in that order. */
export function Written({ onTakeUp }: { onTakeUp(text: string): void }) {
  const tree = useAppSelector((state) => state.workspace.tree?.id ?? '');
  const written = useAppSelector(writtenIn);
  const [takeBack, { isLoading }] = useTakeBackMutation();
  const [problem, setProblem] = useState<string | null>(null);
  if (written.length === 0) return null;
  const take = async (commands: number) => {
    const { error } = await takeBack({ tree, commands });
    setProblem(error === undefined ? null : failureMessage(error));
  };
  const last = written.at(-1);
  return (
    <section aria-label="Written" className="mt-4">
      <h3 className="font-serif text-ink-2 italic">Written, the newest first</h3>
      {problem !== null && (
        <p role="alert" className="text-small text-harm">
          {problem}
        </p>
      )}
      <ol className="mt-1 border border-line bg-label">
        {written.toReversed().map((one) => (
          <Entry
            key={one.id}
            one={one}
            onTakeUp={() => onTakeUp(one.text)}
            onTakeBack={one === last || one.unfit !== null ? () => void take(one.id) : null}
            busy={isLoading}
          />
        ))}
      </ol>
    </section>
  );
}

const NONE: readonly WrittenCommands[] = [];

/** What was written into the open tree's database, the oldest first. */
export function writtenIn({ workspace }: Pick<State, 'workspace'>): readonly WrittenCommands[] {
  return workspace.database?.status === 'ready' ? workspace.database.written : NONE;
}

function Entry({
  one: { text, writtenAt, unfit, lacks, isFile },
  busy,
  onTakeUp,
  onTakeBack,
}: {
  readonly one: WrittenCommands;
  readonly busy: boolean;
  onTakeUp(): void;
  readonly onTakeBack: (() => void) | null;
}) {
  return (
    <li className="border-b border-line px-3 py-1.5 last:border-0">
      {isFile ? (
        <p className="truncate text-small">{text}</p>
      ) : (
        <button
          type="button"
          className="block w-full truncate text-left font-mono text-small hover:text-selected"
          title={text}
          aria-label={`Take up in the editor: ${text.slice(0, 100)}`}
          onClick={onTakeUp}
        >
          {text}
        </button>
      )}
      {lacks !== null && <p className="mt-0.5 text-small text-to-many">Cannot be taken back: {lacks}.</p>}
      {unfit !== null && <p className="mt-0.5 text-small text-harm">No longer fits: {unfit}</p>}
      <p className="mt-0.5 flex items-baseline text-small text-ink-3">
        <time dateTime={writtenAt}>{new Date(writtenAt).toLocaleTimeString()}</time>
        {onTakeBack !== null && (
          <button
            type="button"
            disabled={busy}
            className="ml-auto text-ink-2 underline decoration-dotted underline-offset-2 hover:text-selected"
            onClick={onTakeBack}
          >
            {unfit === null && lacks === null ? 'Take back' : 'Let go of it'}
          </button>
        )}
      </p>
    </li>
  );
}
