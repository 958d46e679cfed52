import { useState } from 'react';
import { FORMAT_NAMES, type FormatName, type FormatOptions, formatsAbout } from '../../../core/formats/index.js';
import type { DialectName } from '../../../core/notation/index.js';
import type { DesignView } from '../../../core/view-models/index.js';
import { useAppSelector } from '../../app/store.js';
import { Button } from '../../parts/button.js';
import { keepFile } from '../../parts/keep-file.js';
import { CopyButton } from './copy-button.js';
import { packedDocument } from './packed-document.js';
import { imageAddress, pngOf } from './picture.js';
import { useMade } from './use-made.js';

/** As much of a document as is shown before it is taken. */
const MOST_SHOWN = 60_000;
const DIALECTS: readonly (readonly [DialectName, string])[] = [
  ['sqlite', 'SQLite'],
  ['postgres', 'PostgreSQL'],
  ['mariadb', 'MariaDB'],
];

/** The formats that the design leaves in: each to be looked at, copied and kept. */
export function Formats({ view, title, server }: { readonly view: DesignView; readonly title: string; readonly server: string }) {
  const [format, setFormat] = useState<FormatName>('openapi');
  const [dialect, setDialect] = useState<DialectName | ''>('');
  const [kin, setKin] = useState('');
  const [dark, setDark] = useState(false);
  const isPicture = format === 'svg';
  const options: FormatOptions = {
    ...(format === 'sql' && dialect !== '' ? { dialect } : {}),
    ...(format === 'openapi' ? { server } : {}),
    ...(isPicture ? { dark, ...(kin === '' ? {} : { kin }) } : {}),
  };
  const { content, problem } = useMade(format, options);
  const { ending, media, purpose, tellsHidden } = formatsAbout[format];
  const name = `${
    title
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '') || 'design'
  }.${ending}`;
  return (
    <section aria-label="Formats" className="flex min-h-0 flex-col">
      <h3 className="font-serif text-title font-semibold">Formats</h3>
      <div role="tablist" aria-label="Format" className="mt-2 flex flex-wrap gap-1">
        {FORMAT_NAMES.map((one) => (
          <button
            key={one}
            type="button"
            role="tab"
            aria-selected={one === format}
            className={`rounded-sm border px-2 py-0.5 ${one === format ? 'border-selected bg-wash text-selected' : 'border-line-2 bg-label hover:border-ink-3'}`}
            onClick={() => setFormat(one)}
          >
            {formatsAbout[one].title}
          </button>
        ))}
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-x-3 gap-y-1 text-small">
        <span className="text-ink-2">
          {purpose}
          {!tellsHidden && '; hidden fields are left out'}
        </span>
        {format === 'sql' && (
          <label className="flex items-center gap-1.5">
            for
            <select
              className="rounded-sm border border-line-2 bg-label px-1"
              value={dialect}
              onChange={(event) => setDialect(event.target.value as DialectName | '')}
            >
              <option value="">the text’s own</option>
              {DIALECTS.map(([one, words]) => (
                <option key={one} value={one}>
                  {words}
                </option>
              ))}
            </select>
          </label>
        )}
        {isPicture && (
          <>
            <label className="flex items-center gap-1.5">
              of
              <select
                className="rounded-sm border border-line-2 bg-label px-1"
                value={kin}
                onChange={(event) => setKin(event.target.value)}
              >
                <option value="">the whole map</option>
                {view.entities.map((entity) => (
                  <option key={entity.name} value={entity.name}>
                    {entity.name} and its close kin
                  </option>
                ))}
              </select>
            </label>
            <label className="flex items-center gap-1.5">
              <input type="checkbox" checked={dark} onChange={(event) => setDark(event.target.checked)} /> dark
            </label>
          </>
        )}
        <span className="ml-auto flex gap-2">
          {content !== null && (
            <>
              <CopyButton text={content} label={`Copy the ${formatsAbout[format].title}`} words="Copy" />
              <Button title={name} onClick={() => keepFile(new Blob([content], { type: media }), name)}>
                Save as .{ending}
              </Button>
              {isPicture && <PngButton svg={content} name={name.replace(/svg$/, 'png')} />}
              {format === 'markdown' && <PicturedButton name={name.replace(/\.md$/, '')} />}
            </>
          )}
        </span>
      </div>
      <div aria-live="polite" className="mt-2 min-h-0 flex-1 overflow-auto border border-line bg-label">
        {problem !== null ? (
          <p role="alert" className="p-4 text-harm">
            It could not be made: {problem}
          </p>
        ) : content === null ? (
          <p className="p-4 text-ink-2 italic">Making it…</p>
        ) : isPicture ? (
          <img src={imageAddress(content)} alt={`The map of ${title}`} className="mx-auto max-h-full max-w-full" />
        ) : (
          <pre className="p-3 font-mono text-small whitespace-pre-wrap">
            {content.slice(0, MOST_SHOWN)}
            {content.length > MOST_SHOWN &&
              `\n… ${(content.length - MOST_SHOWN).toLocaleString('en')} characters more: copy it, or save it.`}
          </pre>
        )}
      </div>
    </section>
  );
}

/** Keeps the document with the pictures that it shows, packed as one file. */
function PicturedButton({ name }: { readonly name: string }) {
  const text = useAppSelector((state) => state.workspace.text);
  const [state, setState] = useState<'ready' | 'drawing' | 'failed'>('ready');
  const keep = async () => {
    setState('drawing');
    try {
      keepFile(await packedDocument(text, name), `${name}.zip`);
      setState('ready');
    } catch {
      setState('failed');
    }
  };
  const words = { ready: 'Save with pictures', drawing: 'Drawing the pictures…', failed: 'They could not be drawn' };
  return (
    <Button title={`${name}.zip`} disabled={state === 'drawing'} onClick={() => void keep()}>
      {words[state]}
    </Button>
  );
}

function PngButton({ svg, name }: { readonly svg: string; readonly name: string }) {
  const [failed, setFailed] = useState(false);
  return (
    <Button
      title={name}
      onClick={() =>
        void pngOf(svg).then(
          (blob) => keepFile(blob, name),
          () => setFailed(true),
        )
      }
    >
      {failed ? 'The browser could not draw it' : 'Save as .png'}
    </Button>
  );
}
