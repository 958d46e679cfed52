import { useAppSelector } from './store.js';
import type { SaveState } from './workspace.js';

/** Whether what stands here is safe, and where. Always in view. */
export function SaveNote() {
  const saving = useAppSelector((state) => state.workspace.saving);
  const bound = useAppSelector((state) => state.workspace.tree?.file ?? null);
  const file = useAppSelector((state) => state.workspace.file);
  const broughtIn = useAppSelector((state) => state.workspace.broughtIn);
  const name = bound === null ? null : (bound.split(/[\\/]/).at(-1) ?? bound);
  const [mark, words, colour] =
    saving.kind === 'saved' && file?.kind === 'failed' ? (['▲', file.message, 'text-to-many'] as const) : said(saving, name);
  return (
    <span className="flex max-w-[40ch] min-w-16 items-baseline gap-2 text-small">
      {broughtIn > 0 && (
        <span className="whitespace-nowrap text-ink-2" title="Somebody else’s changes were brought in; the revisions have them.">
          others’ changes are in
        </span>
      )}
      <span role="status" aria-label="Saving" title={bound ?? words} className={`truncate ${colour}`}>
        {mark} {words}
      </span>
    </span>
  );
}

function said(state: SaveState, name: string | null): readonly [string, string, string] {
  switch (state.kind) {
    case 'saved':
      return ['✓', name === null ? 'saved' : `saved to ${name}`, 'text-fine'];
    case 'unsaved':
    case 'saving':
      return ['…', 'saving', 'text-ink-2'];
    case 'kept':
      return ['▲', state.message, 'text-to-many'];
    case 'conflict':
      return ['▲', 'two versions', 'text-to-many'];
  }
}
