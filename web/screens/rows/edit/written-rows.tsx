import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { tryLink, useGo } from '../../../app/links.js';
import { useAppSelector } from '../../../app/store.js';
import { Written, writtenIn } from '../../../app/written.js';

/** How much was written into the scratch database, and what: it can be taken back there. */
export function WrittenRows() {
  const written = useAppSelector(writtenIn);
  const madeHere = useAppSelector((state) => state.workspace.tree?.kind === 'made');
  const go = useGo();
  if (written.length === 0) return null;
  const unfit = written.filter((one) => one.unfit !== null).length;
  return (
    <Popover className="relative">
      <PopoverButton className="rounded-sm border border-line-2 bg-label px-2.5 py-0.5 whitespace-nowrap hover:border-ink-3">
        {written.length} {written.length === 1 ? 'write' : 'writes'}
        {unfit > 0 && <span className="ml-1 text-harm">▲ {unfit} no longer fit</span>}
      </PopoverButton>
      <PopoverPanel className="absolute top-8 right-0 z-30 max-h-96 w-96 overflow-auto border border-line-2 bg-label p-3 shadow-slip">
        <p className="text-small text-ink-2">
          {madeHere
            ? 'In the scratch database. They are carried out again whenever it is made anew from the text.'
            : 'In the database itself. How its rows were is kept.'}
        </p>
        <Written onTakeUp={(text) => go((tree) => tryLink(tree, text))} />
      </PopoverPanel>
    </Popover>
  );
}
