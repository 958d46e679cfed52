import type { Wire } from './wire.js';

/** How an integer or decimal stands in an engine's text. */
export const NUMBER_FORM = /^-?\d+(\.\d+)?$/;

/** Reads a value's text; what does not fit arrives as it is stored. */
export function decoded(read: (text: string) => Wire): (value: unknown) => Wire {
  return (value) => {
    if (value === null || value === undefined) return null;
    const text = String(value);
    return read(text) ?? { asStored: text };
  };
}

/** A time of day with no needless digit behind the point, else with six. */
export function fractioned(time: string): string {
  const [seconds = '', fraction = ''] = time.split('.');
  const digits = fraction.replace(/0+$/, '');
  return digits === '' ? seconds : `${seconds}.${digits.padEnd(6, '0')}`;
}

/** JSON by its value; what is none arrives as it is stored. */
export function parsedJson(text: string): Wire {
  try {
    return JSON.parse(text) as Wire;
  } catch {
    return { asStored: text };
  }
}
