import { createSlice, type PayloadAction, type ThunkDispatch, type UnknownAction } from '@reduxjs/toolkit';
import { api, failureMessage } from './api.js';

/** The audit that is being worked at. */
export interface AuditWork {
  /** The tree whose walls are audited; null where nothing is worked at. */
  readonly tree: string | null;
  /** Why it stopped by itself; null where it did not. */
  readonly problem: string | null;
}

/** What of the page's state an audit has to do with. */
interface AuditedState {
  readonly api: ReturnType<typeof api.reducer>;
  readonly audits: AuditWork;
}

const initialState: AuditWork = { tree: null, problem: null };

/** An audit is worked at piece by piece, whatever screen is looked at, until it has come to its end or a person stops it. */
export const audits = createSlice({
  name: 'audits',
  initialState,
  reducers: {
    auditBegun: (_state, { payload }: PayloadAction<string>): AuditWork => ({ tree: payload, problem: null }),
    auditStopped: (_state, { payload }: PayloadAction<string | null>): AuditWork => ({ tree: null, problem: payload }),
  },
});

const { auditBegun, auditStopped } = audits.actions;

/** Stops the audit where it is; what was found stays, and it can be gone on with. */
export function stopAudit() {
  return auditStopped(null);
}

/**
 * Works at the audit of a tree until it is done, or stopped.
 *
 * @param from the audit that is gone on with; null to begin one
 */
export function workAtAudit(tree: string, from: number | null) {
  return async (dispatch: ThunkDispatch<AuditedState, unknown, UnknownAction>, getState: () => AuditedState): Promise<void> => {
    if (getState().audits.tree !== null) return;
    dispatch(auditBegun(tree));
    let id = from;
    while (getState().audits.tree === tree) {
      const { data, error } = await dispatch(api.endpoints.workAtAudit.initiate({ tree, id }));
      if (data === undefined || !data.ok) {
        dispatch(auditStopped(data === undefined ? failureMessage(error) : data.problem));
        return;
      }
      const { audit } = data;
      if (id === null) await dispatch(api.endpoints.audits.initiate({ tree }, { forceRefetch: true, subscribe: false }));
      else
        dispatch(
          api.util.updateQueryData('audits', { tree }, (told) => {
            told.latest = audit;
          }),
        );
      id = audit.id;
      if (audit.state.done >= audit.state.all) dispatch(auditStopped(null));
    }
  };
}
