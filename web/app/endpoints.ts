import type { EndpointBuilder } from '@reduxjs/toolkit/query/react';
import type { askServer } from './ask-server.js';

/** What an answer tells of, so that a change makes stale what was told before it; `api` says what each is. */
export const TAGS = ['Trees', 'Revisions', 'Rows', 'Arrival', 'Changes'] as const;

/** Makes the calls to the server. */
export type Build = EndpointBuilder<typeof askServer, (typeof TAGS)[number], 'api'>;
