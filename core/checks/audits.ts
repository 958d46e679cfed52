/** What an audit says of walls beside the ways that it tried, by its code: a text can say of each that it is meant so. */
export const AUDIT_REASONS = {
  'no-wall': 'Rows belong to others, and no wall stands on them: whoever guesses a key reads and changes them.',
  'opens-when-null': 'Whoever lacks a value that a wall asks for sees more than anybody else.',
  'lets-all-through': 'A wall that keeps no row from anybody is one that nobody would miss, or one that is written wrongly.',
  'lets-none-through': 'A wall that lets nothing through is lifted by the first who needs to work.',
  'frees-all': 'A wall that everybody is free of keeps nothing.',
  'read-alone': 'What is kept from being read alone can be put or moved there by anybody, and is then out of their sight.',
  'seen-apart': 'A row that is seen and belongs to one that is not tells of it: that it is there, and what hangs on it.',
} as const;

export type AuditCode = keyof typeof AUDIT_REASONS;
