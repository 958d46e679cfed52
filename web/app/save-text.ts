import type { SerializedError } from '@reduxjs/toolkit';
import type { FetchBaseQueryError } from '@reduxjs/toolkit/query';
import * as v from 'valibot';
import { SaveConflict, type SaveText } from '../../contract/index.js';
import { api, type Caller, failureMessage } from './api.js';

export type SaveResult =
  | { readonly kind: 'saved'; readonly revision: number }
  | { readonly kind: 'conflict'; readonly conflict: SaveConflict }
  /** *offline*: the server did not answer, or not as one that works, and may do so later. */
  | { readonly kind: 'failed'; readonly message: string; readonly offline: boolean };

/** Saves a text as the next revision of the one that it is based on. */
export async function saveText(dispatch: Caller, tree: string, save: SaveText): Promise<SaveResult> {
  const { data, error } = await dispatch(api.endpoints.saveText.initiate({ tree, save }, { track: false }));
  if (data !== undefined) return { kind: 'saved', revision: data.revision };
  const status = statusOf(error);
  const conflict = v.safeParse(SaveConflict, error !== undefined && 'data' in error ? error.data : null);
  if (status === 409 && conflict.success) return { kind: 'conflict', conflict: conflict.output };
  return { kind: 'failed', offline: status === null || status >= 500, message: failureMessage(error) };
}

/** The status of an answer, also of one that is none of this program's; null where there was no answer. */
function statusOf(error: FetchBaseQueryError | SerializedError | undefined): number | null {
  if (error === undefined || !('status' in error)) return null;
  switch (error.status) {
    case 'PARSING_ERROR':
      return error.originalStatus;
    case 'FETCH_ERROR':
    case 'TIMEOUT_ERROR':
      return null;
    case 'CUSTOM_ERROR':
      return 200;
    default:
      return error.status;
  }
}
