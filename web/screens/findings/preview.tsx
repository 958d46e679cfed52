import { applied } from '../../../core/edits/index.js';
import type { Edit } from '../../../core/notation/index.js';
import { useAppDispatch } from '../../app/store.js';
import { textChanged } from '../../app/workspace.js';
import { Button } from '../../parts/button.js';
import { LineDiff } from '../../parts/line-diff.js';

/** What a fix would change, before it does. */
export function Preview({
  text,
  title,
  edits,
  left,
  onDone,
}: {
  readonly text: string;
  readonly title: string;
  readonly edits: readonly Edit[];
  /** How many of several fixes meet another at their place, and are not made with it. */
  readonly left: number;
  onDone(): void;
}) {
  const dispatch = useAppDispatch();
  const after = applied(text, edits);
  return (
    <section aria-label={`Preview: ${title}`} className="mt-2 border border-line bg-label">
      <div className="max-h-60 overflow-auto py-2">
        <LineDiff before={text} after={after} />
      </div>
      <div className="flex items-center gap-2 border-t border-line px-4 py-2">
        <Button
          strong
          onClick={() => {
            dispatch(textChanged(after, title));
            onDone();
          }}
        >
          Change the text
        </Button>
        <Button onClick={onDone}>Leave it</Button>
        {left > 0 && (
          <p className="text-small text-ink-2">
            {left} more change the same place{left === 1 ? '' : 's'} as another; they are left for the next time.
          </p>
        )}
      </div>
    </section>
  );
}
