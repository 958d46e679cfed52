import { useMemo, useState } from 'react';
import type { SaveConflict } from '../../../contract/index.js';
import { type Finding, format, positions } from '../../../core/notation/index.js';
import { dropDraft, takeTheirs } from '../../app/saving.js';
import type { Selection } from '../../app/selection.js';
import { useAppDispatch, useAppSelector } from '../../app/store.js';
import { conflicted, conflictSettled, type SaveState, textChanged, theirsTaken } from '../../app/workspace.js';
import { Button } from '../../parts/button.js';
import { Editor } from '../../parts/editor.js';

const NONE: readonly never[] = [];

/** The text, its state, and what is found in it. */
export function TextPane({
  selection,
  onSelect,
}: {
  readonly selection: Selection | null;
  onSelect(selection: Selection | null): void;
}) {
  const dispatch = useAppDispatch();
  const { tree, text, saving, view } = useAppSelector((state) => state.workspace);
  const fresh = view !== null && view.text === text;
  const [marks, setMarks] = useState<{ colours: NonNullable<typeof view>['colours']; findings: readonly Finding[] }>({
    colours: NONE,
    findings: NONE,
  });
  // Marks of an older text would sit in the wrong places; the editor moves those it has until the new ones are there.
  if (fresh && marks.colours !== view.colours) setMarks({ colours: view.colours, findings: view.findings });
  const selected = useMemo(() => {
    if (!fresh || selection === null) return null;
    return (
      view.declarations.find((declaration) => declaration.kind === selection.kind && declaration.name === selection.name)?.span ??
      null
    );
  }, [fresh, view, selection]);
  const theirs = async (conflict: SaveConflict) => {
    if (tree === null) return;
    const result = await takeTheirs(tree.id, text, conflict);
    if (result.kind === 'saved') {
      dropDraft(tree.id);
      dispatch(theirsTaken({ text: conflict.text, revision: result.revision }));
    } else if (result.kind === 'conflict') {
      dispatch(conflicted(result.conflict));
    }
  };
  const [place, setPlace] = useState<{ start: number; end: number; turn: number } | null>(null);

  return (
    <section aria-label="Text" className="flex h-full min-h-0 flex-col bg-label">
      <div className="flex h-9 shrink-0 items-center gap-3 border-b border-line px-4">
        <SaveNote state={saving} />
        <span className="ml-auto" />
        <button type="button" className="text-ink-2 hover:text-ink" onClick={() => dispatch(textChanged(format(text)))}>
          Format
        </button>
      </div>
      {saving.kind === 'conflict' && (
        <div role="alert" className="flex items-center gap-3 border-b border-line bg-wash px-4 py-2">
          <p className="flex-1">{saving.conflict.message}</p>
          <Button onClick={() => dispatch(conflictSettled())}>Go on with mine</Button>
          <Button onClick={() => void theirs(saving.conflict)}>Take theirs</Button>
        </div>
      )}
      <div className="min-h-0 flex-1">
        <Editor
          text={text}
          label="Text of the tree"
          colours={marks.colours}
          findings={marks.findings}
          selected={place ?? selected}
          selectedKey={place === null ? `${selection?.kind} ${selection?.name}` : `place ${place.turn}`}
          onChange={(next) => dispatch(textChanged(next))}
          onCursor={(offset) => {
            setPlace(null);
            const at = view?.declarations.find(({ span }) => span.start <= offset && offset <= span.end);
            if (at !== undefined && (at.kind === 'entity' || at.kind === 'relation')) onSelect({ kind: at.kind, name: at.name });
          }}
        />
      </div>
      <Findings
        findings={view?.findings ?? NONE}
        fresh={fresh}
        text={view?.text ?? ''}
        onGo={(finding) => setPlace((before) => ({ ...finding.span, turn: (before?.turn ?? 0) + 1 }))}
        onFix={(next) => dispatch(textChanged(next))}
      />
    </section>
  );
}

function SaveNote({ state }: { readonly state: SaveState }) {
  const [mark, words, colour] = ((): [string, string, string] => {
    switch (state.kind) {
      case 'saved':
        return ['✓', 'saved', 'text-fine'];
      case 'unsaved':
      case 'saving':
        return ['…', 'saving', 'text-ink-2'];
      case 'kept':
        return ['▲', state.message, 'text-to-many'];
      case 'conflict':
        return ['▲', 'two versions', 'text-to-many'];
    }
  })();
  return (
    <span role="status" aria-label="Saving" className={`truncate ${colour}`}>
      {mark} {words}
    </span>
  );
}

const SIGNS = { error: ['✕', 'text-harm'], warning: ['▲', 'text-to-many'], note: ['·', 'text-ink-3'] } as const;

function Findings({
  findings,
  text,
  fresh,
  onGo,
  onFix,
}: {
  readonly findings: readonly Finding[];
  readonly text: string;
  /** The findings are those of the text as it stands, so their fixes fit it. */
  readonly fresh: boolean;
  onGo(finding: Finding): void;
  onFix(text: string): void;
}) {
  const positionOf = useMemo(() => positions(text), [text]);
  if (findings.length === 0)
    return <p className="border-t border-line px-4 py-1.5 text-small text-ink-2">Nothing is wrong or doubtful.</p>;
  return (
    <ul aria-label="Findings" className="max-h-[28%] shrink-0 overflow-auto border-t border-line">
      {findings.map((finding) => {
        const [sign, colour] = SIGNS[finding.weight];
        return (
          <li
            key={`${finding.span.start} ${finding.code} ${finding.message}`}
            className="flex items-baseline gap-3 border-b border-line px-4 py-1 text-small last:border-0"
          >
            <button
              type="button"
              className={`shrink-0 whitespace-nowrap underline-offset-2 hover:underline ${colour}`}
              onClick={() => onGo(finding)}
            >
              {sign} line {positionOf(finding.span.start).line}
            </button>
            <span className="flex-1">
              <span className="sr-only">{finding.weight}: </span>
              {finding.message}
            </span>
            {finding.fixes.map((fix) => (
              <button
                key={fix.title}
                disabled={!fresh}
                type="button"
                className="shrink-0 text-selected underline"
                onClick={() => onFix(applied(text, fix.edits))}
              >
                {fix.title}
              </button>
            ))}
          </li>
        );
      })}
    </ul>
  );
}

function applied(text: string, edits: Finding['fixes'][number]['edits']): string {
  return [...edits]
    .sort((a, b) => b.span.start - a.span.start)
    .reduce((result, edit) => result.slice(0, edit.span.start) + edit.text + result.slice(edit.span.end), text);
}
