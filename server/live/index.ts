/** The live endpoint: rows of a tree’s database over HTTP. */
export { type LiveOptions, liveRoutes } from './endpoint.js';
export { LiveRequests } from './requests.js';
