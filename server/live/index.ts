/** The live endpoint: rows of a tree’s database over HTTP. */
export { type LiveOptions, liveRoutes } from './endpoint.js';
export { LiveRequests } from './requests.js';
export { type ServeLiveOptions, type ServingLive, serveLive } from './serve-live.js';
