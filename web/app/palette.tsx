import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { type Command, currentCommands, matching } from './commands.js';

const MOST_SHOWN = 60;

/** Everything that can be done here, found by typing; the best is chosen, and Enter does it. */
export function Palette({ onClose }: { onClose(): void }) {
  const [typed, setTyped] = useState('');
  const [at, setAt] = useState(0);
  const list = useRef<HTMLUListElement>(null);
  const commands = useMemo(() => currentCommands(), []);
  const hits = useMemo(() => matching(commands, typed), [commands, typed]);
  const shown = hits.slice(0, MOST_SHOWN);
  const run = (command: Command | undefined) => {
    if (command === undefined) return;
    onClose();
    // Once the palette is away, so that what the command focuses keeps the focus.
    setTimeout(() => command.run(), 0);
  };
  // biome-ignore lint/correctness/useExhaustiveDependencies: the chosen one is brought into view whenever it is another
  useEffect(() => {
    list.current?.querySelector('[aria-selected="true"]')?.scrollIntoView({ block: 'nearest' });
  }, [at, typed]);
  return (
    <Dialog open onClose={onClose} className="fixed inset-0 z-50">
      <div className="fixed inset-0 bg-[rgb(20_25_20/0.28)]" aria-hidden="true" />
      <div className="fixed inset-0 flex items-start justify-center px-6 pt-[10vh]">
        <DialogPanel className="w-full max-w-[620px] border border-line-2 bg-label text-ink shadow-[0_8px_30px_rgb(0_0_0/0.22)]">
          <DialogTitle className="sr-only">What to do</DialogTitle>
          <input
            autoFocus
            role="combobox"
            autoComplete="off"
            aria-label="What to do"
            aria-expanded
            aria-controls="commands"
            aria-activedescendant={shown.length === 0 ? undefined : `command-${at}`}
            placeholder="Type what to do, or a name: an entity, a relation, a query"
            value={typed}
            className="w-full border-b border-line bg-transparent px-5 py-3 text-[15px] outline-none"
            onChange={(event) => {
              setTyped(event.target.value);
              setAt(0);
            }}
            onKeyDown={(event) => {
              const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
              if (step !== undefined && shown.length > 0) {
                event.preventDefault();
                setAt((at + step + shown.length) % shown.length);
              } else if (event.key === 'Enter') {
                event.preventDefault();
                run(shown[at]);
              } else if (event.key === 'Escape') onClose();
            }}
          />
          <ul ref={list} id="commands" role="listbox" aria-label="Commands" className="max-h-[52vh] overflow-auto py-1.5">
            {shown.map((command, index) => (
              // biome-ignore lint/a11y/useKeyWithClickEvents: the field above takes the keys
              <li
                key={command.id}
                id={`command-${index}`}
                role="option"
                aria-selected={index === at}
                className={`flex cursor-pointer items-baseline gap-3 px-5 py-1.5 ${index === at ? 'bg-wash' : ''}`}
                onPointerMove={() => setAt(index)}
                onClick={() => run(command)}
              >
                <span className="w-20 shrink-0 font-serif text-ink-2 italic">{command.group}</span>
                <span className="truncate">{command.title}</span>
                {command.hint !== undefined && <span className="truncate text-small text-ink-3">{command.hint}</span>}
                {command.keys !== undefined && (
                  <kbd className="ml-auto border border-line-2 px-1.5 font-mono text-small text-ink-2">{command.keys}</kbd>
                )}
              </li>
            ))}
          </ul>
          {hits.length === 0 && (
            <p className="px-5 pb-3 text-ink-2">Nothing here goes by these words. Try another, such as “join” or “rows”.</p>
          )}
          {hits.length > MOST_SHOWN && (
            <p className="border-t border-line px-5 py-1.5 text-small text-ink-2">
              {hits.length - MOST_SHOWN} more. Type on to narrow them.
            </p>
          )}
        </DialogPanel>
      </div>
    </Dialog>
  );
}
