import { useMemo, useState } from 'react';
import { merge, settled } from '../../core/revisions/index.js';
import { Button } from '../parts/button.js';
import { dropDraft, settleClash } from './saving.js';
import { store, useAppDispatch, useAppSelector } from './store.js';
import { clashSettled, textChanged, theirsCame } from './workspace.js';

type Chosen = 'mine' | 'theirs' | 'both';

/** Two versions of the text that changed the same lines: both side by side, one choice for each place. */
export function Clash() {
  const dispatch = useAppDispatch();
  const { tree, text, base, revision, saving, file } = useAppSelector((state) => state.workspace);
  const fromFile = saving.kind !== 'conflict' && file?.kind === 'clash' ? file : null;
  const theirs = saving.kind === 'conflict' ? saving.conflict.text : (fromFile?.text ?? null);
  const began = fromFile?.base ?? base;
  const outcome = useMemo(() => (theirs === null ? null : merge(began, text, theirs)), [began, text, theirs]);
  const [choices, setChoices] = useState<readonly (Chosen | undefined)[]>([]);
  const [problem, setProblem] = useState<string | null>(null);
  if (outcome === null || theirs === null || tree === null) return null;
  const clashes = outcome.kind === 'clashes' ? outcome.parts.filter((part) => part.kind === 'clash') : [];
  const result = outcome.kind === 'clashes' ? settled(outcome.parts, choices) : outcome.text;
  const open = clashes.filter((_clash, index) => choices[index] === undefined).length;
  const whose = fromFile === null ? 'theirs' : 'the file’s';
  const settle = async (chosen: string) => {
    setProblem(null);
    const latest = saving.kind === 'conflict' ? saving.conflict.revision : revision;
    const sides = { mine: text, theirs, chosen };
    const done = await settleClash(dispatch, tree.id, sides, latest, fromFile === null ? undefined : theirs);
    if (done.kind === 'saved') {
      setChoices([]);
      dropDraft(tree.id);
      const typed = store.getState().workspace.text;
      dispatch(clashSettled({ text: chosen, revision: done.revision }));
      // What was typed while it was being settled goes on, on top of what was chosen.
      const both = merge(text, typed, chosen);
      if (typed !== text) dispatch(textChanged(both.kind === 'merged' ? both.text : typed));
    } else if (done.kind === 'conflict') dispatch(theirsCame(done.conflict));
    else setProblem(done.message);
  };
  return (
    <section
      role="alertdialog"
      aria-label="Two versions"
      className="flex max-h-[60vh] flex-col border-b-2 border-to-many bg-label"
    >
      <div className="flex flex-wrap items-center gap-3 border-b border-line px-5 py-2">
        <p className="flex-1">
          <strong>▲ Two versions.</strong>{' '}
          {fromFile === null
            ? 'Somebody else saved a text that changed the same lines as yours.'
            : 'The file was changed by another program in the same lines as here.'}{' '}
          Nothing is written over until you choose; what does not clash is in already.
        </p>
        <Button onClick={() => void settle(text)}>Go on with mine</Button>
        <Button onClick={() => void settle(theirs)}>Take {whose}</Button>
        <Button strong disabled={open > 0} onClick={() => void settle(result)}>
          {open > 0 ? `${open} left to choose` : 'Save what I chose'}
        </Button>
      </div>
      {problem !== null && (
        <p role="alert" className="px-5 py-1 text-harm">
          {problem}
        </p>
      )}
      <div className="min-h-0 overflow-auto">
        {clashes.map((clash, index) => (
          <div key={`${index} ${clash.mine.join()}`} className="grid grid-cols-2 border-b border-line">
            {(['mine', 'theirs'] as const).map((side) => (
              <div key={side} className="border-r border-line last:border-0">
                <div className="flex items-center gap-2 px-5 pt-2 text-small">
                  <span className="font-serif italic">{side === 'mine' ? 'mine' : whose}</span>
                  <span className="ml-auto flex gap-1">
                    <Pick chosen={choices[index] === side} onPick={() => setChoices(withChoice(choices, index, side))}>
                      Take {side === 'mine' ? 'mine' : 'this'}
                    </Pick>
                    {side === 'theirs' && (
                      <Pick chosen={choices[index] === 'both'} onPick={() => setChoices(withChoice(choices, index, 'both'))}>
                        Take both
                      </Pick>
                    )}
                  </span>
                </div>
                <pre className="px-5 py-2 font-mono text-small whitespace-pre-wrap">
                  {clash[side].join('\n') || <span className="text-ink-3">(nothing)</span>}
                </pre>
              </div>
            ))}
          </div>
        ))}
      </div>
    </section>
  );
}

function Pick({ chosen, onPick, children }: { readonly chosen: boolean; onPick(): void; readonly children: React.ReactNode }) {
  return (
    <button
      type="button"
      aria-pressed={chosen}
      className={`rounded-sm border px-2 ${chosen ? 'border-ink bg-ink text-label' : 'border-line-2 hover:border-ink-3'}`}
      onClick={onPick}
    >
      {children}
    </button>
  );
}

function withChoice(choices: readonly (Chosen | undefined)[], index: number, choice: Chosen): (Chosen | undefined)[] {
  const next = [...choices];
  next[index] = choice;
  return next;
}
