import { useMemo, useState } from 'react';
import type { DesignDatabase } from '../../../contract/index.js';
import { applied, withoutFormerNames } from '../../../core/edits/index.js';
import { parse } from '../../../core/notation/index.js';
import { api } from '../../app/api.js';
import { store, useAppDispatch, useAppSelector } from '../../app/store.js';
import { textChanged } from '../../app/workspace.js';
import { Button } from '../../parts/button.js';

/** What the text still says that things were called, and that it can be taken out once every database has followed it. */
export function FormerNames({ tree, databases }: { readonly tree: string; readonly databases: readonly DesignDatabase[] }) {
  const dispatch = useAppDispatch();
  const text = useAppSelector(({ workspace }) => workspace.text);
  const [said, setSaid] = useState<string | null>(null);
  // A text without the word has none, and is not read for it.
  const edits = useMemo(() => (/\bwas\b/.test(text) ? withoutFormerNames(parse(text), text) : []), [text]);
  if (edits.length === 0) return null;
  const clean = async () => {
    const { revision } = store.getState().workspace;
    for (const { id, label } of databases) {
      const ask = dispatch(api.endpoints.stands.initiate({ tree, database: id, revision }, { forceRefetch: true }));
      const stands = await ask.then(({ data }) => data);
      ask.unsubscribe();
      if (stands?.ok !== true || !stands.isText) {
        setSaid(`${label} does not follow this text yet: its plan has to know what things were called.`);
        return;
      }
    }
    dispatch(textChanged(applied(text, edits), 'take out what things were called'));
  };
  const many = edits.length === 1 ? 'what one thing was called' : `what ${edits.length} things were called`;
  return (
    <p className="flex flex-wrap items-center gap-3 px-6 text-ink-2">
      <span>The text still says {many} (was).</span>
      <Button onClick={() => void clean()}>Take it out of the text</Button>
      {said !== null && (
        <span role="alert" className="text-to-many">
          ▲ {said}
        </span>
      )}
    </p>
  );
}
