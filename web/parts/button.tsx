import type { ButtonHTMLAttributes } from 'react';

/** A button; the strong one is the next thing to do on its screen. */
export function Button({
  strong = false,
  className = '',
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { readonly strong?: boolean }) {
  const look = strong ? 'bg-ink text-label border-ink hover:bg-ink-2' : 'bg-label border-line-2 hover:border-ink-3';
  return <button type="button" className={`rounded-sm border px-3 py-1 disabled:opacity-50 ${look} ${className}`} {...rest} />;
}
