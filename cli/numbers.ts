import { InvalidArgumentError } from 'commander';

/** A whole number from 1 on, as an option has it. @throws what commander tells */
export function count(written: string): number {
  return whole(written, 1, Number.MAX_SAFE_INTEGER, 'Write a whole number from 1 on.');
}

/** A time in seconds, which may have a fraction. @throws what commander tells */
export function seconds(written: string): number {
  const value = Number(written);
  if (written.trim() === '' || !Number.isFinite(value) || value <= 0 || value > LONGEST)
    throw new InvalidArgumentError(`Write seconds, as in 30 or 0.5, up to ${LONGEST}.`);
  return value;
}

/** A port to listen on; 0 for any that is free. @throws what commander tells */
export function port(written: string): number {
  return whole(written, 0, 65_535, 'Write a port from 1 to 65535, or 0 for any that is free.');
}

/** A timer holds no more milliseconds than 31 bits do. */
const LONGEST = 2_000_000;

function whole(written: string, least: number, most: number, wanted: string): number {
  const value = Number(written);
  if (!/^\d+$/.test(written.trim()) || value < least || value > most) throw new InvalidArgumentError(wanted);
  return value;
}
