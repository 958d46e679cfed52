import type { Wire } from './wire.js';

/** Bytes in hexadecimal. */
export function hexOf(bytes: Uint8Array): string {
  let hex = '';
  for (const byte of bytes) hex += byte.toString(16).padStart(2, '0');
  return hex;
}

/** How an integer or decimal stands in an engine's text. */
export const NUMBER_FORM = /^-?\d+(\.\d+)?$/;

/** Reads a value's text; what does not fit arrives as it is stored. */
export function decoded(read: (text: string) => Wire): (value: unknown) => Wire {
  return (value) => {
    if (value === null || value === undefined) return null;
    const text = value instanceof Uint8Array ? hexOf(value) : String(value);
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
