import * as v from 'valibot';

/** What an error answer says; `message` is for a person. */
export const Failure = v.object({ message: v.string() });
export type Failure = v.InferOutput<typeof Failure>;
