import type { ComponentProps } from 'react';

interface Look {
  /** What is written in it is of the notation, or of a database. */
  readonly code?: boolean;
}

/** A field to write in. */
export function Input({ code = false, className = '', ...rest }: ComponentProps<'input'> & Look) {
  return <input className={`${BOX} ${code ? CODE : ''} ${className}`} {...rest} />;
}

/** A choice among what is known. */
export function Select({ code = false, className = '', ...rest }: ComponentProps<'select'> & Look) {
  return <select className={`${BOX} ${code ? CODE : ''} ${className}`} {...rest} />;
}

const BOX = 'min-w-0 rounded-sm border border-line-2 bg-label px-2 py-0.5 text-ink placeholder:text-ink-3';
const CODE = 'font-mono text-small';
