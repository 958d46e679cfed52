import { type Request, type Response, Router } from 'express';
import * as v from 'valibot';
import { type Audit, AuditPart, AuditState, type Audits } from '../../contract/index.js';
import { NEVER_TRIED } from '../../services/index.js';
import type { Databases } from '../jobs/index.js';
import type { Store, StoredAudit, StoredTree } from '../store/index.js';
import { notFound, sent } from './answers.js';

/** An audit is worked at so long at a time: whoever stops it waits no longer, and no more of it is lost when a process is. */
const MILLISECONDS = 1000;

/** Audits of walls: they are worked at as long as somebody asks for more of them, and go on from where they were. */
export function auditRoutes({ store, databases }: { store: Store; databases: Databases }): Router {
  const router = Router();

  router.get('/trees/:id/audits', (request, response) => {
    const tree = store.tree(request.params.id);
    if (tree === null) return notFound(response, 'This tree');
    const [latest] = store.audits.of(tree.id, 1);
    const before = store.audits.of(tree.id, 2, true).find(({ id }) => id !== latest?.id);
    const told: Audits = {
      latest: latest === undefined ? null : auditOf(latest),
      before: before === undefined ? null : auditOf(before),
      neverTried: [...NEVER_TRIED],
    };
    response.json(told);
  });

  router.post('/trees/:id/audits', async (request, response) => {
    const tree = store.tree(request.params.id);
    if (tree === null) notFound(response, 'This tree');
    else await worked(tree, null, response);
  });

  router.post('/trees/:id/audits/:audit', async (request: Request<{ id: string; audit: string }>, response) => {
    const tree = store.tree(request.params.id);
    const audit = tree === null ? null : store.audits.one(tree.id, Number(request.params.audit));
    if (tree === null || audit === null || auditOf(audit) === null) return notFound(response, 'This audit');
    if (audit.revision !== tree.revision) {
      response.json({ ok: false, problem: 'The text is another than the one that was being audited. Begin anew.' });
      return;
    }
    await worked(tree, audit, response);
  });

  /** Works at an audit for a while, and keeps what has come of it. */
  async function worked(tree: StoredTree, from: StoredAudit | null, response: Response): Promise<void> {
    const wish = { from: from === null ? null : JSON.parse(from.state), milliseconds: MILLISECONDS };
    await sent(
      response,
      async (signal) => {
        const answer = await databases.ask(tree, 'audit', wish, { signal });
        if ('problem' in answer) return answer;
        const part = v.parse(AuditPart, JSON.parse(answer.json));
        if (!part.ok) return { json: JSON.stringify(part) };
        const { state } = part;
        const kept = { state: JSON.stringify(state), ended: state.done >= state.all };
        const audit = from ?? store.audits.begin(tree.id, { ...kept, revision: tree.revision });
        if (from !== null) store.audits.goOn(from.id, kept);
        return { json: JSON.stringify({ ok: true, audit: auditOf({ ...audit, state: kept.state }) }) };
      },
      (problem) => ({ ok: false, problem }),
    );
  }

  return router;
}

/** An audit as it is told; null for one that an earlier version kept otherwise. */
function auditOf({ id, begunAt, revision, state }: StoredAudit): Audit | null {
  const parsed = v.safeParse(AuditState, JSON.parse(state));
  return parsed.success ? { id, begunAt, revision, state: parsed.output } : null;
}
