import { defaultKeymap, history, historyKeymap, indentWithTab, isolateHistory } from '@codemirror/commands';
import { search, searchKeymap } from '@codemirror/search';
import { EditorState, type Range, StateEffect, StateField } from '@codemirror/state';
import { Decoration, type DecorationSet, drawSelection, EditorView, hoverTooltip, keymap, lineNumbers } from '@codemirror/view';
import { useEffect, useRef } from 'react';
import type { ColouredToken, Finding, Span } from '../../core/notation/index.js';

export type Marked = Pick<Finding, 'weight' | 'message' | 'span'>;

interface Marks {
  readonly colours: readonly ColouredToken[];
  readonly findings: readonly Marked[];
  readonly selected: Span | null;
}

const setMarks = StateEffect.define<Marks>();

/** Decorations stay where their words go until the next reading of the text replaces them. */
const markField = StateField.define<{ set: DecorationSet; findings: readonly Marked[] }>({
  create: () => ({ set: Decoration.none, findings: [] }),
  update: (value, transaction) => {
    let next = transaction.docChanged ? { ...value, set: value.set.map(transaction.changes) } : value;
    for (const effect of transaction.effects) {
      if (effect.is(setMarks)) next = { set: decorations(effect.value, transaction.state), findings: effect.value.findings };
    }
    return next;
  },
  provide: (field) => EditorView.decorations.from(field, (value) => value.set),
});

function decorations({ colours, findings, selected }: Marks, state: EditorState): DecorationSet {
  const { length } = state.doc;
  const ranges: Range<Decoration>[] = [];
  for (const { span, class: name } of colours) {
    if (name !== 'plain' && name !== 'name' && span.end <= length && span.start < span.end)
      ranges.push(Decoration.mark({ class: `kin-${name}` }).range(span.start, span.end));
  }
  for (const { span, weight } of findings) {
    const start = Math.min(span.start, length);
    const end = Math.min(Math.max(span.end, start + 1), length);
    if (start < end) ranges.push(Decoration.mark({ class: `kin-${weight}` }).range(start, end));
  }
  if (selected !== null && selected.end <= length) {
    const last = state.doc.lineAt(selected.end).number;
    for (let number = state.doc.lineAt(selected.start).number; number <= last; number++) {
      ranges.push(Decoration.line({ class: 'kin-selected-line' }).range(state.doc.line(number).from));
    }
  }
  return Decoration.set(ranges, true);
}

const look = EditorView.theme({
  '&': { height: '100%', backgroundColor: 'var(--label)', color: 'var(--ink)' },
  '&.cm-focused': { outline: 'none' },
  '.cm-content': { fontFamily: 'var(--font-mono)', fontSize: '12.5px', lineHeight: '1.6', caretColor: 'var(--ink)' },
  '.cm-gutters': {
    backgroundColor: 'var(--label)',
    color: 'var(--ink-3)',
    border: 'none',
    fontFamily: 'var(--font-mono)',
    fontSize: '12.5px',
    lineHeight: '1.6',
  },
  '.cm-selectionBackground, &.cm-focused .cm-selectionBackground': { backgroundColor: 'var(--line) !important' },
  '.cm-cursor': { borderLeftColor: 'var(--ink)' },
  '.cm-tooltip': {
    backgroundColor: 'var(--label)',
    border: '1px solid var(--line-2)',
    color: 'var(--ink)',
    maxWidth: '420px',
    padding: '6px 10px',
  },
  '.cm-panel.cm-search': { fontFamily: 'var(--font-sans)', fontSize: '12px', padding: '6px 10px' },
  '.cm-panel .cm-button': {
    backgroundImage: 'none',
    backgroundColor: 'var(--label)',
    color: 'var(--ink)',
    border: '1px solid var(--line-2)',
    borderRadius: '2px',
    fontSize: '12px',
  },
  '.cm-panel .cm-textfield': {
    backgroundColor: 'var(--label)',
    color: 'var(--ink)',
    border: '1px solid var(--line-2)',
    fontSize: '12px',
  },
  '.cm-panels': { backgroundColor: 'var(--ground)', color: 'var(--ink)' },
});

export interface EditorProps {
  readonly text: string;
  readonly label: string;
  readonly colours: readonly ColouredToken[];
  readonly findings: readonly Marked[];
  /** The stretch that is selected elsewhere, washed and scrolled to. */
  readonly selected?: Span | null;
  /** Changes where something else is selected: only then is it scrolled to, and not when its lines move by typing. */
  readonly selectedKey?: string;
  readonly numbers?: boolean;
  onChange(text: string): void;
  /** The person put the cursor here. */
  onCursor?(offset: number): void;
  onRun?(): void;
}

/** A text to write in, coloured by what the parser made of it. */
export function Editor({
  text,
  label,
  colours,
  findings,
  selected = null,
  selectedKey = '',
  numbers = true,
  onChange,
  onCursor,
  onRun,
}: EditorProps) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const calls = useRef({ onChange, onCursor, onRun });
  calls.current = { onChange, onCursor, onRun };
  const first = useRef({ text, numbers, label });

  useEffect(() => {
    if (host.current === null) return;
    const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? '';
    const made = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: first.current.text,
        extensions: [
          EditorView.cspNonce.of(nonce),
          history(),
          drawSelection(),
          search(),
          look,
          markField,
          ...(first.current.numbers ? [lineNumbers()] : []),
          EditorState.tabSize.of(2),
          EditorView.contentAttributes.of({ 'aria-label': first.current.label, spellcheck: 'false', tabindex: '0' }),
          keymap.of([
            {
              key: 'Mod-Enter',
              run: () => {
                calls.current.onRun?.();
                return calls.current.onRun !== undefined;
              },
            },
            indentWithTab,
            ...defaultKeymap,
            ...historyKeymap,
            ...searchKeymap,
          ]),
          hoverTooltip((editor, position) => {
            const found = editor.state
              .field(markField)
              .findings.filter(({ span }) => span.start <= position && position <= Math.max(span.end, span.start + 1));
            if (found.length === 0) return null;
            return {
              pos: position,
              create: () => {
                const dom = document.createElement('div');
                dom.textContent = found.map(({ message }) => message).join('\n');
                dom.style.whiteSpace = 'pre-line';
                return { dom };
              },
            };
          }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) calls.current.onChange(update.state.doc.toString());
            const byHand = update.transactions.some(
              (transaction) =>
                transaction.isUserEvent('select') || transaction.isUserEvent('input') || transaction.isUserEvent('delete'),
            );
            if (byHand) calls.current.onCursor?.(update.state.selection.main.head);
          }),
        ],
      }),
    });
    view.current = made;
    return () => made.destroy();
  }, []);

  useEffect(() => {
    const editor = view.current;
    if (editor === null || editor.state.doc.toString() === text) return;
    // A change that was not typed here is taken back by itself, and not with what was typed before it.
    editor.dispatch({ changes: changeBetween(editor.state.doc.toString(), text), annotations: isolateHistory.of('full') });
  }, [text]);

  useEffect(() => {
    view.current?.dispatch({ effects: setMarks.of({ colours, findings, selected }) });
  }, [colours, findings, selected]);

  const shown = useRef<string | null>(null);
  useEffect(() => {
    const editor = view.current;
    if (editor === null || selected === null || selected.start > editor.state.doc.length || shown.current === selectedKey) return;
    shown.current = selectedKey;
    const { head } = editor.state.selection.main;
    if (head >= selected.start && head <= selected.end && editor.hasFocus) return;
    editor.dispatch({ effects: EditorView.scrollIntoView(selected.start, { y: 'start', yMargin: 60 }) });
  }, [selected, selectedKey]);

  return <div ref={host} className="h-full min-h-0 overflow-hidden" />;
}

/** The smallest single replacement from one text to another, so that the cursor and undo stay in place. */
function changeBetween(before: string, after: string): { from: number; to: number; insert: string } {
  let from = 0;
  while (from < before.length && from < after.length && before[from] === after[from]) from += 1;
  let tail = 0;
  while (
    tail < before.length - from &&
    tail < after.length - from &&
    before[before.length - 1 - tail] === after[after.length - 1 - tail]
  )
    tail += 1;
  return { from, to: before.length - tail, insert: after.slice(from, after.length - tail) };
}
