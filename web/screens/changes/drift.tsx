import { useState } from 'react';
import type { DesignDatabase } from '../../../contract/index.js';
import { failureMessage, useDriftQuery, useStandsQuery } from '../../app/api.js';
import { useAppDispatch, useAppSelector } from '../../app/store.js';
import { textChanged } from '../../app/workspace.js';
import { Button } from '../../parts/button.js';
import { Dialog } from '../../parts/dialog.js';
import { LineDiff } from '../../parts/line-diff.js';

/** So many sentences of what others changed are shown at once. */
const SHOWN = 4;

/** What somebody else's hand has changed in a database, with both ways out: the text follows it, or it is put back. */
export function DriftNotice({
  tree,
  database,
  onPutBack,
}: {
  readonly tree: string;
  readonly database: DesignDatabase;
  onPutBack(): void;
}) {
  const revision = useAppSelector(({ workspace }) => workspace.revision);
  const { data } = useStandsQuery({ tree, database: database.id, revision });
  const [open, setOpen] = useState(false);
  const [all, setAll] = useState(false);
  if (data?.ok !== true || data.drift.length === 0) return null;
  const shown = all ? data.drift : data.drift.slice(0, SHOWN);
  return (
    <section aria-label="Changed by others" className="mx-6 mt-3 border-l-3 border-to-many bg-label px-4 py-2">
      <p>
        <span className="text-to-many">▲</span> Somebody else’s hand has changed {database.label} since it was last changed from
        here:
      </p>
      <ul className="mt-1 list-disc pl-5">
        {shown.map((sentence) => (
          <li key={sentence} className="break-words">
            {sentence}
          </li>
        ))}
      </ul>
      {shown.length < data.drift.length && (
        <button type="button" className="text-small underline underline-offset-2" onClick={() => setAll(true)}>
          {data.drift.length - shown.length} more
        </button>
      )}
      <p className="mt-2 flex gap-3">
        <Button onClick={() => setOpen(true)}>Take it into the text…</Button>
        <Button onClick={onPutBack}>Put it back…</Button>
      </p>
      {open && <EditsDialog tree={tree} database={database} onClose={() => setOpen(false)} />}
    </section>
  );
}

/** What others changed, as lines of the text; taken with a click. */
function EditsDialog({ tree, database, onClose }: { readonly tree: string; readonly database: DesignDatabase; onClose(): void }) {
  const dispatch = useAppDispatch();
  const { revision, text } = useAppSelector(({ workspace }) => workspace);
  const { data, error } = useDriftQuery({ tree, database: database.id, revision }, { refetchOnMountOrArgChange: true });
  const isSame = data?.ok === true && data.text === text;
  return (
    <Dialog title={`What others changed in ${database.label}, as lines of the text`} wide onClose={onClose}>
      <div className="space-y-3 py-3">
        {error !== undefined && <p className="px-5 text-harm">{failureMessage(error)}</p>}
        {data === undefined && error === undefined && <p className="px-5 text-ink-2">Holding it against the text…</p>}
        {data?.ok === false && (
          <p role="alert" className="px-5 text-harm">
            {data.problem}
          </p>
        )}
        {data?.ok === true && (
          <>
            {isSame ? (
              <p className="px-5 text-ink-2">Nothing of it can be said in the text, or the text says all of it already.</p>
            ) : (
              <LineDiff before={text} after={data.text} />
            )}
            {data.left.length > 0 && (
              <ul aria-label="Left to you" className="list-disc px-5 pl-9 text-to-many">
                {data.left.map((words) => (
                  <li key={words} className="break-words">
                    {words}
                  </li>
                ))}
              </ul>
            )}
          </>
        )}
        <p className="flex justify-end gap-3 px-5 pb-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button
            strong
            disabled={data?.ok !== true || isSame || data.revision !== revision}
            onClick={() => {
              if (data?.ok !== true) return;
              dispatch(textChanged(data.text, `what others changed in ${database.label}`));
              onClose();
            }}
          >
            Take it into the text
          </Button>
        </p>
      </div>
    </Dialog>
  );
}
