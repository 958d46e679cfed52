import type { AskKind, Asks } from './asks.js';
import { firstAnswers } from './first-answers.js';
import { laterAnswers } from './later-answers.js';

/** All that is answered of a text, for whoever has no worker between. */
export const answers: { readonly [K in AskKind]: (ask: Asks[K][0]) => Asks[K][1] } = { ...firstAnswers, ...laterAnswers };
