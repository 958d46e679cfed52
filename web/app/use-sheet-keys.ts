import { useEffect } from 'react';

/** Is the person writing somewhere, so that a letter is meant for what they write? */
export function isWriting(event: KeyboardEvent): boolean {
  const target = event.target instanceof HTMLElement ? event.target : null;
  return target !== null && target.closest('input, textarea, select, [contenteditable="true"]') !== null;
}

/** Ctrl K opens the palette and ? the reference, on every screen. */
export function useSheetKeys(onSheet: (sheet: 'palette' | 'reference') => void): void {
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        onSheet('palette');
      } else if (event.key === '?' && !isWriting(event)) {
        event.preventDefault();
        onSheet('reference');
      }
    };
    window.addEventListener('keydown', listen);
    return () => window.removeEventListener('keydown', listen);
  }, [onSheet]);
}
