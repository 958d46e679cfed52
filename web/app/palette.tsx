import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { useMemo, useState } from 'react';
import { type Command, matching, useCurrentCommands } from './commands.js';

const MOST_SHOWN = 60;

/** Everything that can be done here, found by typing; the best is chosen, and Enter does it. */
export function Palette({ onClose }: { onClose(): void }) {
  const [typed, setTyped] = useState('');
  const commands = useCurrentCommands();
  const hits = useMemo(() => matching(commands, typed), [commands, typed]);
  const shown = hits.slice(0, MOST_SHOWN);
  const run = (command: Command | null) => {
    if (command === null) return;
    onClose();
    // Once the palette is away, so that what the command focuses keeps the focus.
    setTimeout(() => command.run(), 0);
  };
  return (
    <Dialog open onClose={onClose} className="fixed inset-0 z-50">
      <div className="fixed inset-0 bg-veil" aria-hidden="true" />
      <div className="fixed inset-0 flex items-start justify-center px-6 pt-[10vh]">
        <DialogPanel className="w-full max-w-[620px] border border-line-2 bg-label text-ink shadow-sheet">
          <DialogTitle className="sr-only">What to do</DialogTitle>
          <Combobox<Command | null> immediate value={null} onChange={run}>
            <ComboboxInput
              autoFocus
              autoComplete="off"
              aria-label="What to do"
              placeholder="Type what to do, or a name: an entity, a relation, a query"
              className="w-full border-b border-line bg-transparent px-5 py-3 text-[15px] outline-none"
              onChange={(event) => setTyped(event.target.value)}
              // The list has no state of its own to be put away first: it is there as long as the palette is.
              onKeyDown={(event) => {
                if (event.key === 'Escape') onClose();
              }}
            />
            <ComboboxOptions static aria-label="Commands" className="max-h-[52vh] overflow-auto py-1.5">
              {shown.map((command) => (
                <ComboboxOption
                  key={command.id}
                  value={command}
                  className="flex cursor-pointer items-baseline gap-3 px-5 py-1.5 data-focus:bg-wash"
                >
                  <span className="w-20 shrink-0 font-serif text-ink-2 italic">{command.group}</span>
                  <span className="max-w-3/4 shrink-0 truncate">{command.title}</span>
                  {command.hint !== undefined && <span className="truncate text-small text-ink-3">{command.hint}</span>}
                  {command.keys !== undefined && (
                    <kbd className="ml-auto border border-line-2 px-1.5 font-mono text-small text-ink-2">{command.keys}</kbd>
                  )}
                </ComboboxOption>
              ))}
            </ComboboxOptions>
          </Combobox>
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
