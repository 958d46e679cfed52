import { Faulty, faultsDocument, placeOf, readingOf, refuse, statusOf } from '../core/live/index.js';
import { answerOperations } from './live-operations.js';
import { answerReading } from './live-reads.js';
import {
  type Answering,
  type LiveAnswer,
  type LiveDatabase,
  type LiveRequest,
  type LiveWork,
  resourcesIn,
} from './live-request.js';
import { answerWriting } from './live-writes.js';

/** A request’s answer, with what it asked of the database. */
export interface LiveOutcome extends LiveAnswer {
  readonly work: LiveWork;
}

/**
 * Answers a request of the live endpoint (JSON:API 1.1) over a database, as far as whoever asks sees and may change its rows. What a
 * person can get wrong is answered as errors of the standard.
 */
export async function answerLive(live: LiveDatabase, request: LiveRequest): Promise<LiveOutcome> {
  const work: LiveWork = { texts: [], log: [] };
  const answering: Answering = { live, resources: resourcesIn(live.design), request, work };
  try {
    return { ...(await answered(answering)), work };
  } catch (error) {
    if (!(error instanceof Faulty)) throw error;
    return { status: statusOf(error.faults), headers: {}, body: JSON.stringify(faultsDocument(error.faults)), work };
  }
}

function answered(answering: Answering): Promise<LiveAnswer> {
  const { live, resources, request } = answering;
  const place = placeOf(live.design.model, resources, request.parts);
  switch (request.method) {
    case 'GET':
    case 'HEAD':
      return answerReading(answering, place, readingOf(request.parameters));
    case 'POST':
      if (place.kind === 'operations') return answerOperations(answering);
      return answerWriting(answering, place);
    case 'PATCH':
    case 'DELETE':
      return answerWriting(answering, place);
    default:
      return refuse(405, `${request.method} is not known here.`);
  }
}
