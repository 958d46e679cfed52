import { type ComponentType, useEffect, useState } from 'react';
import { untilReachable } from './reachable.js';

const NothingYet = () => null;

/**
 * A component whose code is fetched when it is first shown. A server that does not answer meanwhile is waited for; a
 * server that answers without the code is a newer one, whose page is then loaded.
 *
 * @param Waiting what stands in its place until then
 */
export function fetched<Props extends object>(
  fetchModule: () => Promise<ComponentType<Props>>,
  Waiting: ComponentType<Props> = NothingYet,
): ComponentType<Props> {
  let module: ComponentType<Props> | null = null;
  return function Fetched(props: Props) {
    const [Shown, show] = useState(() => module);
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
        .then(arrived, () => location.reload());
      return () => {
        current = false;
      };
    }, [Shown]);
    return Shown === null ? <Waiting {...props} /> : <Shown {...props} />;
  };
}
