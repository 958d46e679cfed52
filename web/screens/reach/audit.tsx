import type { Audit as AuditTold } from '../../../contract/index.js';
import { failureMessage, useAuditsQuery } from '../../app/api.js';
import { stopAudit, workAtAudit } from '../../app/audits.js';
import { useAppDispatch, useAppSelector } from '../../app/store.js';
import { Button } from '../../parts/button.js';
import { ShareBar } from '../../parts/share-bar.js';
import { AuditFound } from './audit-found.js';

/** The audit: whether anything gets round the walls, tried as each kind of actor. */
export function Audit({ tree }: { readonly tree: string }) {
  const dispatch = useAppDispatch();
  const work = useAppSelector((state) => state.audits);
  const revision = useAppSelector((state) => state.workspace.revision);
  const { data, error } = useAuditsQuery({ tree });
  const audit = data?.latest ?? null;
  const isRunning = work.tree === tree;
  const isDone = audit !== null && audit.state.done >= audit.state.all;
  const isOfText = audit?.revision === revision;
  return (
    <section aria-label="The audit" className="mt-6">
      <div className="flex items-center gap-3 border-t border-line-2 pt-4">
        <h3 className="font-serif text-title font-semibold">Does anything get round them?</h3>
        <span className="flex-1" />
        {isRunning ? (
          <Button onClick={() => dispatch(stopAudit())}>Stop</Button>
        ) : (
          <>
            {audit !== null && !isDone && isOfText && (
              <Button strong onClick={() => void dispatch(workAtAudit(tree, audit.id))}>
                Go on
              </Button>
            )}
            <Button strong={audit === null || !isOfText} onClick={() => void dispatch(workAtAudit(tree, null))}>
              {audit === null ? 'Try every way' : 'Try every way again'}
            </Button>
          </>
        )}
      </div>
      {work.problem !== null && !isRunning && (
        <p role="alert" className="mt-2 text-harm">
          {work.problem}
        </p>
      )}
      {error !== undefined && (
        <p role="alert" className="mt-2 text-harm">
          {failureMessage(error)}
        </p>
      )}
      {isRunning && <Working audit={audit} />}
      {audit === null ? (
        !isRunning && <Explained />
      ) : (
        <AuditFound
          tree={tree}
          audit={audit}
          before={data?.before ?? null}
          neverTried={data?.neverTried ?? []}
          isOfText={isOfText}
          isRunning={isRunning}
        />
      )}
    </section>
  );
}

function Explained() {
  return (
    <p className="mt-2 max-w-[72ch] text-ink-2">
      Every saved query, role, path, key, count, order, filter, choice, load and command is tried as each kind of actor above, and
      held against what they may reach, which is found out a second time and in another way. Whatever is written is taken back;
      only numbers that the database gives to new rows are used up.
    </p>
  );
}

/** How far it is, and what it is at. */
function Working({ audit }: { readonly audit: AuditTold | null }) {
  const { done, all, at } = audit?.state ?? { done: 0, all: 1, at: 'who is to be tried' };
  return (
    <div className="mt-3 flex items-center gap-4" role="status" aria-label="How far the audit is">
      <ShareBar label="Tried" share={done / Math.max(1, all)} />
      <span className="w-56 truncate text-small text-ink-2">{at}</span>
    </div>
  );
}
