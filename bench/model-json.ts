import type { Model } from '../core/model/index.js';

/** A model as JSON, maps as objects: reading it with JSON.parse is what reading a text is measured against. */
export function modelJson(model: Model): string {
  return JSON.stringify(model, (_key, inner: unknown) => (inner instanceof Map ? Object.fromEntries(inner) : inner));
}
