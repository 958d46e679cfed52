import { type ComponentType, useEffect, useState } from 'react';
import { untilReachable } from './reachable.js';

const NothingYet = () => null;

const RELOADED = 'family-tree.reloaded-at';
/** A page that was loaded for the sake of its code so lately, in milliseconds, is not loaded for it again. */
const LATELY = 30_000;

/**
 * Loads the page of a server that has other code by now.
 * @throws the failure, where that was done just now: then the code itself is at fault, and loading would never end
 */
function loadPageOfNow(failure: unknown): void {
  if (Date.now() - Number(sessionStorage.getItem(RELOADED) ?? 0) < LATELY) throw failure;
  sessionStorage.setItem(RELOADED, String(Date.now()));
  location.reload();
}

/** A component whose code may not be there yet. */
export type FetchedComponent<Props extends object> = ComponentType<Props> & {
  /** Waits for its code, before it is shown for the first time. */
  ahead(): Promise<void>;
};

/**
 * A component whose code is fetched when it is first shown. A server that does not answer meanwhile is waited for; a
 * server that answers without the code is a newer one, whose page is then loaded. Code that fails after that is told as any
 * page that cannot be drawn.
 *
 * @param Waiting what stands in its place until then
 */
export function fetched<Props extends object>(
  fetchModule: () => Promise<ComponentType<Props>>,
  Waiting: ComponentType<Props> = NothingYet,
): FetchedComponent<Props> {
  let module: ComponentType<Props> | null = null;
  function Fetched(props: Props) {
    const [Shown, show] = useState(() => module);
    const [failure, fail] = useState<{ readonly error: unknown } | null>(null);
    if (failure !== null) throw failure.error;
    useEffect(() => {
      if (Shown !== null) return;
      let current = true;
      const arrived = (component: ComponentType<Props>) => {
        module = component;
        if (current) show(() => component);
      };
      void fetchModule()
        .catch(async () => {
          await untilReachable();
          return fetchModule();
        })
        .then(arrived, loadPageOfNow)
        .catch((error: unknown) => {
          if (current) fail({ error });
        });
      return () => {
        current = false;
      };
    }, [Shown]);
    return Shown === null ? <Waiting {...props} /> : <Shown {...props} />;
  }
  return Object.assign(Fetched, {
    async ahead() {
      // What fails here fails again where it is shown, and is told there.
      module = await fetchModule().catch(() => null);
    },
  });
}
