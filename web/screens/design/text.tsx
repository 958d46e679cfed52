import { type RefObject, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { applied } from '../../../core/edits/index.js';
import { type Finding, format, type Span } from '../../../core/notation/index.js';
import type { DesignView } from '../../../core/view-models/index.js';
import { NO_COLOURS, type PackedColours, unpackColours } from '../../../core/view-models/index.js';
import { runCommand, useCommands } from '../../app/commands.js';
import { askDesign } from '../../app/design-client.js';
import type { Selection } from '../../app/selection.js';
import { store, useAppDispatch, useAppSelector } from '../../app/store.js';
import { redone, textChanged, undone } from '../../app/workspace.js';
import { Editor } from '../../parts/editor.js';
import { SOUGHT } from '../../parts/editor-props.js';
import type { NameView } from '../../workers/asks.js';
import { Findings } from './findings.js';
import { NamePanel } from './name-panel.js';

const NONE: readonly never[] = [];

/** The text, what is found in it, and the names that are looked into. */
export function TextPane({
  selection,
  place: sought,
  onSelect,
}: {
  readonly selection: Selection | null;
  /** A place that somebody outside the text wants seen. */
  readonly place: Span | null;
  onSelect(selection: Selection | null): void;
}) {
  const dispatch = useAppDispatch();
  const { text, view } = useAppSelector((state) => state.workspace);
  const fresh = view !== null && view.text === text;
  const marks = useMarks(fresh ? view : null);
  const selected = useMemo(() => {
    if (!fresh || selection === null) return null;
    return (
      view.declarations.find((declaration) => declaration.kind === selection.kind && declaration.name === selection.name)?.span ??
      null
    );
  }, [fresh, view, selection]);
  const [place, setPlace] = useState<{ start: number; end: number; turn: number } | null>(null);
  const [cursor, setCursor] = useState(0);
  const writing = useRef<HTMLDivElement>(null);
  const go = useCallback((span: Span) => setPlace((before) => ({ ...span, turn: (before?.turn ?? 0) + 1 })), []);
  useEffect(() => {
    if (sought !== null) go(sought);
  }, [sought, go]);

  const { name, setName, look, define } = useName(go);
  const takenBackBy = useMemo(() => ({ undo: () => void dispatch(undone()), redo: () => void dispatch(redone()) }), [dispatch]);
  useTextCommands(writing, cursor, look, define);
  return (
    <section aria-label="Text" className="flex h-full min-h-0 flex-col bg-label">
      <div className="flex h-9 shrink-0 items-center gap-4 border-b border-line px-4">
        <span className="font-serif text-ink-2 italic">the text says it all</span>
        <button
          type="button"
          className="ml-auto text-ink-2 hover:text-ink"
          title="Where the word at the cursor is used, and another name for it (F2)"
          onClick={() => void look(cursor)}
        >
          Rename
        </button>
        <button type="button" className="text-ink-2 hover:text-ink" onClick={() => dispatch(textChanged(format(text), 'format'))}>
          Format
        </button>
      </div>
      <div ref={writing} className="min-h-0 flex-1">
        <Editor
          text={text}
          label="Text of the tree"
          colours={marks.colours}
          findings={marks.findings}
          selected={place ?? selected}
          selectedKey={place === null ? `${selection?.kind} ${selection?.name}` : `${SOUGHT}${place.turn}`}
          takenBackBy={takenBackBy}
          complete={(written, offset) => askDesign('complete', { text: written, offset })}
          tell={(written, offset) => askDesign('hover', { text: written, offset })}
          onDefinition={(offset) => void define(offset)}
          onRename={(offset) => void look(offset)}
          onChange={(next) => dispatch(textChanged(next))}
          onCursor={(offset) => {
            setPlace(null);
            setCursor(offset);
            const at = view?.declarations.find(({ span }) => span.start <= offset && offset <= span.end);
            if (at !== undefined && (at.kind === 'entity' || at.kind === 'relation')) onSelect({ kind: at.kind, name: at.name });
          }}
        />
      </div>
      {name !== null && (
        <NamePanel
          key={`${name.thing.kind} ${name.thing.owner} ${name.thing.name}`}
          name={name}
          text={text}
          onGo={go}
          onClose={() => setName(null)}
          onRenamed={(next) => {
            dispatch(textChanged(next, `rename ${name.thing.name}`));
            setName(null);
          }}
        />
      )}
      <Findings
        findings={view?.findings ?? NONE}
        fresh={fresh}
        text={view?.text ?? ''}
        onGo={(finding) => go(finding.span)}
        onFix={(fix) => dispatch(textChanged(applied(text, fix.edits), fix.title))}
      />
    </section>
  );
}

interface Marks {
  readonly colours: ReturnType<typeof unpackColours>;
  readonly findings: readonly Finding[];
}

/**
 * The colours and findings of a text. Those of an older text would sit in the wrong places; the editor moves those it has until
 * the new ones are there.
 *
 * @param view of the text as it stands; null while it is being read
 */
function useMarks(view: DesignView | null): Marks {
  const [marks, setMarks] = useState<{ colours: PackedColours; findings: readonly Finding[] }>({
    colours: NO_COLOURS,
    findings: NONE,
  });
  if (view !== null && marks.colours !== view.colours) setMarks({ colours: view.colours, findings: view.findings });
  const colours = useMemo(() => unpackColours(marks.colours), [marks.colours]);
  return { colours, findings: marks.findings };
}

/** The name that is looked into, and how one comes to it: its panel, or the place where it is declared. */
function useName(go: (span: Span) => void): {
  readonly name: NameView | null;
  setName(name: NameView | null): void;
  look(offset: number): Promise<void>;
  define(offset: number): Promise<void>;
} {
  const [name, setName] = useState<NameView | null>(null);
  const look = useCallback(async (offset: number) => {
    setName(await askDesign('name', { text: store.getState().workspace.text, offset }));
  }, []);
  const define = useCallback(
    async (offset: number) => {
      const found = await askDesign('name', { text: store.getState().workspace.text, offset });
      if (found === null) return;
      if (found.definition === null || found.definition.start === found.span.start) setName(found);
      else go(found.definition);
    },
    [go],
  );
  return { name, setName, look, define };
}

/** Offers what can be done in the text; T begins to write in it. */
function useTextCommands(
  writing: RefObject<HTMLDivElement | null>,
  cursor: number,
  look: (offset: number) => Promise<void>,
  define: (offset: number) => Promise<void>,
): void {
  const dispatch = useAppDispatch();
  const commands = useMemo(
    () => [
      {
        id: 'write',
        title: 'Write in the text',
        group: 'Text' as const,
        words: 'editor focus type edit',
        keys: 'T',
        run: () => writing.current?.querySelector<HTMLElement>('[role="textbox"]')?.focus(),
      },
      {
        id: 'format',
        title: 'Format the text',
        group: 'Text' as const,
        words: 'pretty print tidy indent',
        run: () => void dispatch(textChanged(format(store.getState().workspace.text), 'format')),
      },
      {
        id: 'rename',
        title: 'Rename what the cursor is on, everywhere',
        group: 'Text' as const,
        words: 'refactor symbol name',
        keys: 'F2',
        run: () => void look(cursor),
      },
      {
        id: 'uses',
        title: 'Find the uses of what the cursor is on',
        group: 'Text' as const,
        words: 'references usages',
        run: () => void look(cursor),
      },
      {
        id: 'definition',
        title: 'Go to where it is declared',
        group: 'Text' as const,
        words: 'definition jump',
        keys: 'F12',
        run: () => void define(cursor),
      },
    ],
    [dispatch, look, define, cursor, writing],
  );
  useCommands('text', commands);
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.key !== 't' || event.ctrlKey || event.metaKey || event.altKey) return;
      if (target.closest('input, textarea, select, [contenteditable], [role="dialog"]') !== null) return;
      event.preventDefault();
      runCommand('write');
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, []);
}
