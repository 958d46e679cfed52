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
  const status = error !== undefined && 'status' in error ? error.status : null;
  const conflict = v.safeParse(SaveConflict, error !== undefined && 'data' in error ? error.data : null);
  if (status === 409 && conflict.success) return { kind: 'conflict', conflict: conflict.output };
  const refused = typeof status === 'number' && status < 500;
  return { kind: 'failed', offline: !refused && status !== 'CUSTOM_ERROR', message: failureMessage(error) };
}
