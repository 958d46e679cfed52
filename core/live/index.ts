/** Rows over HTTP: what an address and a body of JSON:API ask of a design, as queries and commands of its notation; and answers as documents. */
export { OPERATIONS, type Parameters, type Place, placeOf, QUERIES } from './address.js';
export { BodyReader, escaped, type Given, isObject, type Json, localName, type Named } from './body.js';
export { type CurlLine, type CurlOptions, curlLines } from './curl.js';
export { type CursorTerm, cursorOf, idOf } from './cursor.js';
export {
  Compound,
  documentJson,
  type Identifier,
  type RelationshipObject,
  type ResourceObject,
  type ToldResource,
  typeOf,
  type Writing,
} from './document.js';
export { Faulty, fault, faultsDocument, type LiveFault, refuse, statusOf } from './fault.js';
export { ATOMIC, isAccepted, isBodyOf, MEDIA_TYPE } from './media.js';
export {
  collectionTerms,
  collectionText,
  type Included,
  type LiveQuery,
  PAGE_HEAD,
  placeText,
  relatedTerms,
  relatedText,
  resourceText,
  valueTypeOf,
} from './query-text.js';
export { MOST_PAGE_SIZE, PAGE_SIZE, type Page, type Reading, readingOf, refuseOthers } from './reading.js';
export { type Attribute, type Relationship, type Resources, type ResourceType, resourcesOf } from './resources.js';
