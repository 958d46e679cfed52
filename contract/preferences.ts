import * as v from 'valibot';
import { recordOf } from './parts.js';

export const Preferences = v.pipe(
  recordOf(v.pipe(v.string(), v.maxLength(10_000))),
  v.check((given) => Object.keys(given).every((key) => key.length <= 100), 'A name may hold 100 characters.'),
);
export type Preferences = v.InferOutput<typeof Preferences>;
