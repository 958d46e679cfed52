import { type Request, type Response, Router } from 'express';
import { BesideAsk, CountsAsk, ImpactAsk, RowsAsk, WhyAsk } from '../../contract/index.js';
import type { Databases, TreeAsk } from '../jobs/index.js';
import type { Store } from '../store/index.js';
import { answerOf, asOf, bodyOf, notFound } from './answers.js';

/** Looking through rows: windows of them, how many each knows, what a relation's rows say. */
export function rowRoutes({ store, databases }: { store: Store; databases: Databases }): Router {
  const router = Router();

  const ask = async (
    name: TreeAsk,
    argument: unknown,
    request: Request<{ id: string }>,
    response: Response,
    refuse: (problem: string) => object,
  ): Promise<void> => {
    const tree = store.tree(request.params.id);
    if (tree === null) notFound(response, 'This tree');
    else await answerOf(databases, tree, name, argument, response, refuse);
  };

  router.post('/trees/:id/rows', async (request, response) => {
    const wanted = bodyOf(RowsAsk, request, response);
    if (wanted !== null)
      await ask('rows', wanted, request, response, (problem) => ({ ok: false, findings: [], problems: [problem] }));
  });

  router.post('/trees/:id/rows/beside', async (request, response) => {
    const wanted = bodyOf(BesideAsk, request, response);
    if (wanted !== null) await ask('rows beside', wanted, request, response, (problem) => ({ ok: false, problem }));
  });

  router.post('/trees/:id/impact', async (request, response) => {
    const wanted = bodyOf(ImpactAsk, request, response);
    if (wanted !== null) await ask('impact', wanted, request, response, (problem) => ({ ok: false, problems: [problem] }));
  });

  router.post('/trees/:id/counts', async (request, response) => {
    const wanted = bodyOf(CountsAsk, request, response);
    if (wanted !== null) await ask('counts', wanted, request, response, () => ({ counts: {} }));
  });

  router.get('/trees/:id/counts', (request, response) =>
    ask('entity counts', asOf(request), request, response, () => ({ rows: {} })),
  );

  router.get('/trees/:id/relations/:relation/rows', (request, response) =>
    ask('profile', request.params.relation, request, response, (problem) => ({ ok: false, problem })),
  );

  router.get('/trees/:id/rows/findings', (request, response) =>
    ask('row findings', null, request, response, (problem) => ({ ok: false, problem })),
  );

  router.post('/trees/:id/why', async (request, response) => {
    const wanted = bodyOf(WhyAsk, request, response);
    if (wanted !== null) await ask('why', wanted, request, response, (problem) => ({ ok: false, problem }));
  });

  router.get('/trees/:id/reach', (request, response) =>
    ask('reach', null, request, response, (problem) => ({ ok: false, problem })),
  );

  router.get('/trees/:id/expectations', (request, response) =>
    ask('expectations', null, request, response, (problem) => ({ ok: false, problem })),
  );

  router.get('/trees/:id/entities/:entity/kinds', (request, response) =>
    ask('kinds', request.params.entity, request, response, (problem) => ({ message: problem })),
  );

  return router;
}
