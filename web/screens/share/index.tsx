import { useEffect, useState } from 'react';
import { useParams } from 'react-router';
import { failureMessage, useLiveQuery } from '../../app/api.js';
import { askDesign } from '../../app/design-client.js';
import { useAppSelector } from '../../app/store.js';
import type { ResourcesView } from '../../workers/asks.js';
import { Endpoint } from './endpoint.js';
import { Formats } from './formats.js';
import { Requests } from './requests.js';

/** How often it is looked for requests that have come, in milliseconds. */
const LOOK_EVERY = 1500;

/** Share: the formats that a design leaves in on one side, the live endpoint on the other. */
export function ShareScreen() {
  const { tree = '' } = useParams();
  const view = useAppSelector((state) => state.workspace.view);
  const resources = useResources();
  const { data: state, error } = useLiveQuery({ tree }, { pollingInterval: LOOK_EVERY });
  if (view === null) return <p className="p-6 text-ink-2">Reading the text…</p>;
  return (
    <div className="flex h-full flex-col px-8 py-5">
      <h2 className="font-serif text-[22px] font-semibold">Share</h2>
      <div className="mt-3 grid min-h-0 flex-1 grid-cols-2 gap-8">
        <Formats view={view} title={view.title} server={state?.base ?? '/live/TREE'} />
        <div className="min-w-0 overflow-auto pr-1">
          {error !== undefined && (
            <p role="alert" className="text-harm">
              {failureMessage(error)}
            </p>
          )}
          {state === undefined || resources === null ? (
            error === undefined && <p className="text-ink-2">Asking where it is…</p>
          ) : (
            <>
              <Endpoint state={state} resources={resources} />
              <Requests requests={state.requests} base={state.base} />
            </>
          )}
        </div>
      </div>
    </div>
  );
}

/** What the rows of the text are over HTTP; null while it is read. */
function useResources(): ResourcesView | null {
  const text = useAppSelector((state) => state.workspace.text);
  const [resources, setResources] = useState<ResourcesView | null>(null);
  useEffect(() => {
    let current = true;
    void askDesign('resources', { text }).then((found) => current && setResources(found));
    return () => {
      current = false;
    };
  }, [text]);
  return resources;
}
