import { DialogPanel, DialogTitle, Dialog as HeadlessDialog } from '@headlessui/react';
import { X } from 'lucide-react';
import type { ReactNode } from 'react';

/** A sheet of paper over the page; Escape and a click beside it put it away. */
export function Dialog({
  title,
  wide = false,
  onClose,
  children,
}: {
  readonly title: string;
  readonly wide?: boolean;
  onClose(): void;
  readonly children: ReactNode;
}) {
  return (
    <HeadlessDialog open onClose={onClose} className="fixed inset-0 z-40">
      <div className="fixed inset-0 bg-veil" aria-hidden="true" />
      <div className="fixed inset-0 flex items-start justify-center overflow-hidden px-6 py-[5vh]">
        <DialogPanel
          className={`flex max-h-[90vh] w-full flex-col border border-line-2 bg-label text-ink shadow-sheet ${wide ? 'max-w-[1120px]' : 'max-w-[720px]'}`}
        >
          <div className="flex shrink-0 items-center border-b border-line px-5 py-2.5">
            <DialogTitle className="font-serif text-title font-semibold">{title}</DialogTitle>
            <button type="button" aria-label="Close" className="ml-auto p-1 text-ink-2 hover:text-ink" onClick={onClose}>
              <X size={17} />
            </button>
          </div>
          {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling region has to be reached by the keyboard */}
          <div tabIndex={0} className="min-h-0 flex-1 overflow-auto outline-none">
            {children}
          </div>
        </DialogPanel>
      </div>
    </HeadlessDialog>
  );
}
