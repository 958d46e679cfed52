import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';

/** Rows in from a file, and out into one. */
export function Files({
  onImport,
  onExport,
}: {
  /** Null where no row can be put in from here. */
  readonly onImport: (() => void) | null;
  readonly onExport: (() => void) | null;
}) {
  return (
    <Popover className="relative">
      <PopoverButton className="rounded-sm border border-line-2 bg-label px-2.5 py-0.5 hover:border-ink-3">Files</PopoverButton>
      <PopoverPanel className="absolute top-8 right-0 z-30 w-60 border border-line-2 bg-label py-1 shadow-slip">
        {({ close }) => (
          <>
            {[
              { label: 'Put rows in from a file…', act: onImport },
              { label: 'Save these rows as a file…', act: onExport },
            ].map(({ label, act }) => (
              <button
                key={label}
                type="button"
                disabled={act === null}
                className="block w-full px-3 py-1 text-left hover:bg-wash disabled:opacity-50"
                onClick={() => {
                  close();
                  act?.();
                }}
              >
                {label}
              </button>
            ))}
          </>
        )}
      </PopoverPanel>
    </Popover>
  );
}
