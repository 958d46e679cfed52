import { store } from './store.js';

/** On whose behalf something is asked that is no call of the api: nothing for the system. */
export function behalf(): { readonly as?: string } {
  const { as } = store.getState().actor;
  return as === '' ? {} : { as };
}
