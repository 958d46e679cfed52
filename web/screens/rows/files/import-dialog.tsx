import type { LinesTold } from '../../../../contract/index.js';
import { Refusal } from '../../../app/refusal.js';
import { refusedAddress } from '../../../app/row-files.js';
import { Button } from '../../../parts/button.js';
import { ChooseFile } from '../../../parts/choose-file.js';
import { Dialog } from '../../../parts/dialog.js';
import { ShareBar } from '../../../parts/share-bar.js';
import { ColumnsTable } from './columns-table.js';
import { ImportOptions } from './import-options.js';
import { type Import, type ImportState, type Told, useImport } from './use-import.js';

interface ImportDialogProps {
  readonly tree: string;
  readonly entity: string;
  onClose(): void;
}

/** Puts the lines of a file in as rows: what each column is, how the first lines come out, and then all of them. */
export function ImportDialog({ tree, entity, onClose }: ImportDialogProps) {
  const work = useImport(tree, entity);
  const { state } = work;
  // What is being put in is stopped by its own button alone.
  const close = () => {
    if (state.step !== 'putting') onClose();
  };
  return (
    <Dialog title={`Rows of ${entity} from a file`} wide onClose={close}>
      <div className="space-y-3 px-5 py-3">
        <Step tree={tree} entity={entity} state={state} work={work} onClose={onClose} />
      </div>
    </Dialog>
  );
}

function Step({
  tree,
  entity,
  state,
  work,
  onClose,
}: ImportDialogProps & { readonly state: ImportState; readonly work: Import }) {
  switch (state.step) {
    case 'choosing':
      return (
        <>
          <ChooseFile
            label="A CSV file, or one with a JSON object in each line"
            accept=".csv,.tsv,.txt,.jsonl,.ndjson,.json"
            disabled={false}
            onChoose={work.choose}
          >
            <span className="text-ink-2">
              A line becomes a row. The first of CSV names the columns; JSON lines end in .jsonl. Nothing is written before you
              have seen how the lines come out.
            </span>
          </ChooseFile>
          <Problem text={state.problem} />
        </>
      );
    case 'sending':
      return <Bar label={`Sending ${state.name}`} share={state.share} />;
    case 'saying':
      return <Saying state={state} entity={entity} work={work} onClose={onClose} />;
    case 'putting':
      return (
        <>
          <Bar
            label={`Putting in ${state.found.name}${state.done === null ? '' : `: ${state.done.what}`}`}
            share={state.done?.share ?? 0}
          />
          <div className="flex items-center justify-end gap-3">
            <span className="text-small text-ink-2">All of it is one transaction: stopped, nothing of it stays.</span>
            <Button onClick={work.stop}>Stop</Button>
          </div>
        </>
      );
    case 'done':
      return (
        <>
          <Outcome told={state.told} entity={entity} />
          <Refusals told={state.told} />
          <div className="flex items-center justify-end gap-2">
            {state.told.refused > 0 && state.told.ended && (
              <a
                className="mr-auto text-selected hover:underline"
                href={refusedAddress(tree, state.found.file)}
                download={`refused ${state.found.name}`}
              >
                The lines that were refused, as a file with the reasons
              </a>
            )}
            <Button onClick={work.again}>Another file</Button>
            <Button strong onClick={onClose}>
              Close
            </Button>
          </div>
        </>
      );
  }
}

function Saying({
  state: { found, wish, tried, problem },
  entity,
  work,
  onClose,
}: {
  readonly state: Extract<ImportState, { step: 'saying' }>;
  readonly entity: string;
  readonly work: Import;
  onClose(): void;
}) {
  const mayPut = tried?.ok === true && (tried.refused === 0 || wish.goodOnes);
  return (
    <>
      <p className="text-ink-2">
        <span className="font-semibold text-ink">{found.name}</span>, {sizeOf(found.bytes)},{' '}
        {found.form === 'csv' ? 'CSV' : 'JSON lines'}. Say what its columns are of {entity}: a field, the row behind a role, or
        nothing.
      </p>
      <ColumnsTable
        found={found}
        uses={wish.uses}
        tried={tried}
        onUse={(at, use) => work.say({ uses: wish.uses.map((before, index) => (index === at ? use : before)) })}
      />
      <ImportOptions wish={wish} onSay={work.say} />
      <Tried tried={tried} found={found.lines.length} goodOnes={wish.goodOnes} />
      <Problem text={problem} />
      <div className="flex justify-end gap-2">
        <Button className="mr-auto" onClick={work.again}>
          Another file
        </Button>
        <Button onClick={onClose}>Close</Button>
        <Button strong disabled={!mayPut} onClick={work.put}>
          Put the lines in
        </Button>
      </div>
    </>
  );
}

/** How the first lines came out when they were tried. */
function Tried({
  tried,
  found,
  goodOnes,
}: {
  readonly tried: LinesTold | null;
  readonly found: number;
  readonly goodOnes: boolean;
}) {
  if (tried === null)
    return (
      <p role="status" className="text-ink-3">
        Trying the first {found} lines…
      </p>
    );
  if (!tried.ok) return <Problem text={tried.problems.join('\n')} />;
  return (
    <>
      <p role="status" className={tried.refused > 0 ? 'text-harm' : 'text-fine'}>
        {tried.refused > 0 ? '✕' : '✓'} Of the first {counted(tried.lines)}, tried and taken back: {partsOf(tried)}.
        {tried.refused > 0 && !goodOnes && ' Say otherwise what a column is, let the good lines in, or mend the file.'}
      </p>
      <Refusals told={tried} />
    </>
  );
}

function Outcome({ told, entity }: { readonly told: Told; readonly entity: string }) {
  const { kept, ended, passing } = told;
  return (
    <div role="status">
      <p className={kept ? 'text-fine' : 'text-harm'}>
        {kept ? '✓' : '✕'} {counted(told.lines)} as rows of {entity}: {partsOf(told)}.
      </p>
      {!kept && (
        <p className="text-ink-2">
          Nothing was written{ended ? '' : ', and the file was not read to its end: too many lines were refused'}. Mend the lines,
          or let the good ones in.
        </p>
      )}
      {passing !== null && <p className="text-to-many">{passing}</p>}
    </div>
  );
}

/** Why lines were refused, by line and column. */
function Refusals({ told }: { readonly told: Told }) {
  if (told.refusals.length === 0) return null;
  const lines = new Set(told.refusals.map(({ line }) => line)).size;
  return (
    <ol aria-label="Lines that are refused" className="max-h-48 overflow-auto border border-line bg-sheet px-3 py-1.5 text-small">
      {told.refusals.map(({ line, column, message }) => (
        <li key={`${line} ${column} ${message}`} className="py-0.5">
          <span className="font-mono text-harm">
            line {line}
            {column === null ? '' : `, ${column}`}
          </span>{' '}
          <Refusal text={message} />
        </li>
      ))}
      {told.refused > lines && <li className="py-0.5 text-ink-3">… and {counted(told.refused - lines)} more.</li>}
    </ol>
  );
}

function Problem({ text }: { readonly text: string }) {
  if (text === '') return null;
  return (
    <p role="alert" className="whitespace-pre-line text-harm">
      {text}
    </p>
  );
}

function Bar({ label, share }: { readonly label: string; readonly share: number }) {
  return (
    <div className="py-2">
      <p className="mb-1">{label}</p>
      <ShareBar label={label} share={share} />
    </div>
  );
}

/** What became of lines, in words. */
function partsOf({ created, updated, skipped, refused }: Told): string {
  const parts = [
    [created, 'new'],
    [updated, 'changed'],
    [skipped, 'there already'],
    [refused, 'refused'],
  ] as const;
  const told = parts.flatMap(([count, word]) => (count === 0 ? [] : [`${count.toLocaleString('en')} ${word}`]));
  return told.length === 0 ? 'nothing to do' : told.join(', ');
}

function counted(lines: number): string {
  return `${lines.toLocaleString('en')} line${lines === 1 ? '' : 's'}`;
}

const KILO = 1024;

function sizeOf(bytes: number): string {
  if (bytes < KILO) return `${bytes} bytes`;
  const kilobytes = bytes / KILO;
  return kilobytes < KILO ? `${kilobytes.toFixed(1)} KB` : `${(kilobytes / KILO).toFixed(1)} MB`;
}
