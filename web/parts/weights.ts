import type { Weight } from '../../core/notation/index.js';

/** The sign and the colour of each weight of a finding; never the colour alone. */
export const WEIGHT_SIGNS: Readonly<Record<Weight, readonly [sign: string, colour: string]>> = {
  error: ['✕', 'text-harm'],
  warning: ['▲', 'text-to-many'],
  note: ['·', 'text-ink-3'],
};
