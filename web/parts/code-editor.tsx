import {
  acceptCompletion,
  autocompletion,
  type CompletionContext,
  type CompletionResult,
  completionKeymap,
  completionStatus,
  moveCompletionSelection,
  selectedCompletionIndex,
} from '@codemirror/autocomplete';
import { defaultKeymap, history, historyKeymap, indentWithTab, isolateHistory } from '@codemirror/commands';
import { codeFolding, foldGutter, foldKeymap, foldService } from '@codemirror/language';
import { search, searchKeymap } from '@codemirror/search';
import { EditorSelection, EditorState, type Extension, Prec, type Range, StateEffect, StateField } from '@codemirror/state';
import {
  Decoration,
  type DecorationSet,
  drawSelection,
  EditorView,
  hoverTooltip,
  keymap,
  lineNumbers,
  placeholder,
  type Tooltip,
} from '@codemirror/view';
import { type RefObject, useEffect, useRef } from 'react';
import type { ColouredToken, Span } from '../../core/notation/index.js';
import { stepBetween } from '../app/undo.js';
import { type EditorProps, type Marked, SOUGHT } from './editor-props.js';

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

const marksByClass = new Map<string, Decoration>();

/** One decoration for all words of a class, as there are tens of thousands of words. */
function markOf(name: string): Decoration {
  const known = marksByClass.get(name) ?? Decoration.mark({ class: `kin-${name}` });
  marksByClass.set(name, known);
  return known;
}

function decorations({ colours, findings, selected }: Marks, state: EditorState): DecorationSet {
  const { length } = state.doc;
  const ranges: Range<Decoration>[] = [];
  for (const { span, class: name } of colours) {
    if (name !== 'plain' && name !== 'name' && span.end <= length && span.start < span.end)
      ranges.push(markOf(name).range(span.start, span.end));
  }
  for (const { span, weight } of findings) {
    const start = Math.min(span.start, length);
    const end = Math.min(Math.max(span.end, start + 1), length);
    if (start < end) ranges.push(markOf(weight).range(start, end));
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
  '.cm-placeholder': { color: 'var(--ink-3)', fontStyle: 'italic' },
  '.cm-cursor': { borderLeftColor: 'var(--ink)' },
  '.cm-tooltip': {
    backgroundColor: 'var(--label)',
    border: '1px solid var(--line-2)',
    color: 'var(--ink)',
    maxWidth: '420px',
    padding: '6px 10px',
  },
  '.cm-tooltip.cm-tooltip-autocomplete': { padding: '2px 0', maxWidth: '460px' },
  '.cm-tooltip-autocomplete > ul': { fontFamily: 'var(--font-mono)', fontSize: '12px', maxHeight: '220px' },
  '.cm-tooltip-autocomplete > ul > li': { padding: '2px 10px', lineHeight: '1.5' },
  '.cm-tooltip-autocomplete > ul > li[aria-selected]': { backgroundColor: 'var(--wash)', color: 'var(--ink)' },
  '.cm-completionMatchedText': { textDecoration: 'none', fontWeight: '700' },
  '.cm-completionDetail': { color: 'var(--ink-3)', fontStyle: 'normal', marginLeft: '12px' },
  '.cm-foldGutter span': { color: 'var(--ink-3)', padding: '0 2px' },
  '.cm-foldPlaceholder': { backgroundColor: 'var(--wash)', border: 'none', color: 'var(--ink-2)', padding: '0 6px' },
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

/** A text to write in, coloured by what the parser made of it. */
export function CodeEditor({
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
  complete,
  tell,
  onDefinition,
  onRename,
  takenBackBy,
  single = false,
  example = '',
}: EditorProps) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const calls = useRef<Calls>({ onChange });
  calls.current = {
    onChange,
    ...(onCursor === undefined ? {} : { onCursor }),
    ...(onRun === undefined ? {} : { onRun }),
    ...(complete === undefined ? {} : { complete }),
    ...(tell === undefined ? {} : { tell }),
    ...(onDefinition === undefined ? {} : { onDefinition }),
    ...(onRename === undefined ? {} : { onRename }),
    ...(takenBackBy === undefined ? {} : { takenBackBy }),
  };
  const first = useRef({ text, numbers, label, single, example, ownHistory: takenBackBy === undefined });

  useEffect(() => {
    if (host.current === null) return;
    const made = new EditorView({
      parent: host.current,
      state: EditorState.create({ doc: first.current.text, extensions: extensionsOf(first.current, calls) }),
    });
    view.current = made;
    return () => made.destroy();
  }, []);

  useEffect(() => {
    const editor = view.current;
    if (editor === null || editor.state.doc.toString() === text) return;
    // A change that was not typed here is taken back by itself, and not with what was typed before it.
    const { from, removed, inserted } = stepBetween(editor.state.doc.toString(), text);
    editor.dispatch({
      changes: { from, to: from + removed.length, insert: inserted },
      annotations: isolateHistory.of('full'),
      ...(editor.hasFocus ? { selection: { anchor: from + inserted.length }, scrollIntoView: true } : {}),
    });
  }, [text]);

  useEffect(() => {
    view.current?.dispatch({ effects: setMarks.of({ colours, findings, selected }) });
  }, [colours, findings, selected]);

  useShown(view, selected, selectedKey);

  return <div ref={host} className="h-full min-h-0 overflow-hidden" />;
}

/** Brings what is selected elsewhere into sight, once for each selection; what was sought is gone to. */
function useShown(view: RefObject<EditorView | null>, selected: Span | null, selectedKey: string): void {
  const shown = useRef<string | null>(null);
  useEffect(() => {
    const editor = view.current;
    if (editor === null || selected === null || selected.start > editor.state.doc.length || shown.current === selectedKey) return;
    shown.current = selectedKey;
    if (selectedKey.startsWith(SOUGHT)) {
      editor.dispatch({
        selection: { anchor: selected.start },
        effects: EditorView.scrollIntoView(selected.start, { y: 'center' }),
      });
      editor.focus();
      return;
    }
    // Whoever writes here has selected it by the cursor, and may be elsewhere by now; their view is not taken away.
    if (editor.hasFocus) return;
    editor.dispatch({ effects: EditorView.scrollIntoView(selected.start, { y: 'start', yMargin: 60 }) });
  }, [view, selected, selectedKey]);
}

/** How an editor stays all its life. */
interface Manner {
  readonly numbers: boolean;
  readonly label: string;
  readonly single: boolean;
  readonly example: string;
  readonly ownHistory: boolean;
}

function extensionsOf({ numbers, label, single, example, ownHistory }: Manner, calls: RefObject<Calls>): Extension[] {
  const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? '';
  return [
    EditorView.cspNonce.of(nonce),
    ...(ownHistory ? [history()] : []),
    drawSelection(),
    assistance(calls),
    ...(numbers ? folding : []),
    ...(single ? [oneLine] : []),
    ...(example === '' ? [] : [placeholder(example)]),
    search(),
    look,
    markField,
    ...(numbers ? [lineNumbers(), foldGutter(FOLD_SIGNS)] : []),
    EditorState.tabSize.of(2),
    EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'false', tabindex: '0' }),
    keymap.of([
      {
        key: 'Mod-Enter',
        run: () => {
          calls.current.onRun?.();
          return calls.current.onRun !== undefined;
        },
      },
      ...(single ? [] : [indentWithTab, { key: 'Enter', run: newLine }]),
      ...defaultKeymap,
      ...(ownHistory ? historyKeymap : []),
      ...searchKeymap,
    ]),
    hoverTooltip(findingsAt),
    EditorView.updateListener.of((update) => {
      if (update.docChanged) calls.current.onChange(update.state.doc.toString());
      const byHand = update.transactions.some(
        (transaction) =>
          transaction.isUserEvent('select') || transaction.isUserEvent('input') || transaction.isUserEvent('delete'),
      );
      if (byHand) calls.current.onCursor?.(update.state.selection.main.head);
    }),
  ];
}

/** The messages of the findings at a place of the text. */
function findingsAt(editor: EditorView, position: number): Tooltip | null {
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
}

type Calls = Pick<
  EditorProps,
  'onChange' | 'onCursor' | 'onRun' | 'complete' | 'tell' | 'onDefinition' | 'onRename' | 'takenBackBy'
>;

const FOLD_SIGNS = { openText: '▾', closedText: '▸' };

/** A declaration folds to its head: the lines below that are deeper. */
const folding: Extension[] = [
  codeFolding({ placeholderText: '…' }),
  keymap.of(foldKeymap),
  foldService.of((state, start) => {
    const line = state.doc.lineAt(start);
    const indent = (text: string) => text.length - text.trimStart().length;
    if (line.text.trim() === '' || line.text.trimStart().startsWith('--')) return null;
    let last = line;
    for (let number = line.number + 1; number <= state.doc.lines; number++) {
      const next = state.doc.line(number);
      if (next.text.trim() === '') continue;
      if (indent(next.text) <= indent(line.text)) break;
      last = next;
    }
    return last === line ? null : { from: line.to, to: last.to };
  }),
];

/** Takes what is chosen in the list of completions, or what stands first in it; false where there is no list. */
function takeFirst(view: EditorView): boolean {
  if (completionStatus(view.state) !== 'active') return false;
  if (selectedCompletionIndex(view.state) === null) moveCompletionSelection(true)(view);
  return acceptCompletion(view);
}

/** The heads that have lines below them. */
const HEAD = /^(tree|choice|mixin|entity|relation|scope|wall|query|sample|expect)\b/;

/** A new line at the depth of the one above, a step in below a head, and at the margin below a line that was left empty. */
function newLine({ state, dispatch }: EditorView): boolean {
  if (state.readOnly) return false;
  dispatch(
    state.update(
      state.changeByRange(({ from, to }) => {
        const line = state.doc.lineAt(from);
        const before = line.text.slice(0, from - line.from);
        const isLeftEmpty = line.text.trim() === '' && line.text !== '';
        const indent = HEAD.test(before) ? '  ' : (/^ */.exec(before)?.[0] ?? '');
        const [start, inserted] = isLeftEmpty ? [line.from, state.lineBreak] : [from, `${state.lineBreak}${indent}`];
        return { changes: { from: start, to, insert: inserted }, range: EditorSelection.cursor(start + inserted.length) };
      }),
      { scrollIntoView: true, userEvent: 'input' },
    ),
  );
  return true;
}

/** A line break means nothing in a single line; Enter is for whoever listens around it. */
const oneLine = EditorState.transactionFilter.of((transaction) =>
  transaction.docChanged && transaction.newDoc.lines > 1 ? [] : transaction,
);

/** Completion, hover, definition, rename and undo: all asked of whoever uses the editor. */
function assistance(calls: { readonly current: Calls }): Extension {
  const source = async (context: CompletionContext): Promise<CompletionResult | null> => {
    const { complete } = calls.current;
    if (complete === undefined) return null;
    const written = context.matchBefore(/\w+/);
    const behind = context.matchBefore(/[\w.[(:] ?$|\s$/);
    if (!context.explicit && written === null && behind === null) return null;
    const found = await complete(context.state.doc.toString(), context.pos);
    if (context.aborted || found.options.length === 0) return null;
    return {
      from: found.span.start,
      options: found.options.map(({ label, kind, detail }) => ({ label, type: kind, detail })),
      validFor: /^\w*$/,
    };
  };
  const definition = (view: EditorView, offset: number) => {
    calls.current.onDefinition?.(offset);
    return calls.current.onDefinition !== undefined && view.hasFocus;
  };
  return [
    // Enter is a new line unless one has moved in the list; Tab takes what stands first.
    autocompletion({ override: [source], icons: false, activateOnTypingDelay: 60, selectOnOpen: false, interactionDelay: 0 }),
    Prec.high(keymap.of([...completionKeymap, { key: 'Tab', run: takeFirst }])),
    EditorState.languageData.of(() => [{ commentTokens: { line: '--' } }]),
    keymap.of([
      { key: 'F12', run: (view) => definition(view, view.state.selection.main.head) },
      {
        key: 'F2',
        run: (view) => {
          calls.current.onRename?.(view.state.selection.main.head);
          return calls.current.onRename !== undefined;
        },
      },
      ...(calls.current.takenBackBy === undefined
        ? []
        : [
            { key: 'Mod-z', preventDefault: true, run: () => takeBack(calls, 'undo') },
            { key: 'Mod-y', mac: 'Mod-Shift-z', preventDefault: true, run: () => takeBack(calls, 'redo') },
            { key: 'Mod-Shift-z', preventDefault: true, run: () => takeBack(calls, 'redo') },
          ]),
    ]),
    EditorView.domEventHandlers({
      mousedown: (event, view) => {
        if (!event.ctrlKey && !event.metaKey) return false;
        const offset = view.posAtCoords({ x: event.clientX, y: event.clientY });
        return offset === null ? false : definition(view, offset);
      },
    }),
    hoverTooltip(async (view, position) => {
      const told = await calls.current.tell?.(view.state.doc.toString(), position);
      if (told === null || told === undefined) return null;
      return {
        pos: told.span.start,
        end: told.span.end,
        create: () => {
          const dom = document.createElement('div');
          for (const line of told.lines) dom.appendChild(document.createElement('div')).textContent = line;
          dom.style.whiteSpace = 'pre-wrap';
          return { dom };
        },
      };
    }),
  ];
}

function takeBack(calls: { readonly current: Calls }, which: 'undo' | 'redo'): boolean {
  calls.current.takenBackBy?.[which]();
  return true;
}
