import { useEffect, useRef, useState } from 'react';
import type { FileColumns, RowsOutAsk } from '../../../../contract/index.js';
import { behalf } from '../../../app/behalf.js';
import { fileColumns, takeRowsOut } from '../../../app/row-files.js';
import { Button } from '../../../parts/button.js';
import { Dialog } from '../../../parts/dialog.js';
import { Select } from '../../../parts/input.js';
import { keepFile } from '../../../parts/keep-file.js';
import type { RowsQuestion } from '../place.js';
import { NothingInput } from './nothing-input.js';

interface ExportDialogProps {
  readonly tree: string;
  readonly entity: string;
  readonly asked: RowsQuestion;
  readonly total: number;
  onClose(): void;
}

/** Takes the rows that are in view out as a file: all that fit the filter, in their order. */
export function ExportDialog({ tree, entity, asked, total, onClose }: ExportDialogProps) {
  const columns = useColumns(tree, entity);
  const [chosen, setChosen] = useState<readonly string[] | null>(null);
  const [form, setForm] = useState<RowsOutAsk['form']>('csv');
  const [nothing, setNothing] = useState('');
  const [said, setSaid] = useState<{ readonly problem: boolean; readonly text: string } | null>(null);
  const working = useRef<AbortController | null>(null);
  const [busy, setBusy] = useState(false);
  const uses = chosen ?? columns?.whole ?? [];
  useEffect(() => () => working.current?.abort(), []);
  const save = async () => {
    const work = new AbortController();
    working.current = work;
    setBusy(true);
    setSaid(null);
    const { where, orderBy, via } = asked;
    const ask = { entity, where, orderBy, via, uses: [...uses], form, nothing, ...behalf() };
    const outcome = await takeRowsOut(tree, ask, work.signal);
    setBusy(false);
    if ('problem' in outcome) {
      setSaid({ problem: true, text: outcome.problem });
      return;
    }
    const { content, rows, alike } = outcome.value;
    keepFile(content, `${entity}.${form === 'csv' ? 'csv' : 'jsonl'}`);
    const same =
      alike === 0
        ? ''
        : ` ${alike.toLocaleString('en')} texts are the same as what stands for nothing, and would come back as nothing. Choose another text for it.`;
    setSaid({ problem: alike > 0, text: `${rows.toLocaleString('en')} row${rows === 1 ? '' : 's'} saved.${same}` });
  };
  return (
    <Dialog title={`Rows of ${entity} as a file`} onClose={onClose}>
      <div className="space-y-3 px-5 py-3">
        <p className="text-ink-2">
          {total.toLocaleString('en')} {total === 1 ? 'row' : 'rows'}
          {asked.where === '' ? '' : ', those that fit the filter'},{' '}
          {asked.orderBy === '' ? 'in the order of the key' : 'in the order of the page'}. Another row is named by its key, by a
          field, or as it is shown, as you like.
        </p>
        <fieldset className="grid max-h-64 grid-cols-2 gap-x-4 overflow-auto border border-line bg-sheet px-3 py-2 font-mono text-small">
          <legend className="sr-only">Columns</legend>
          {(columns?.uses ?? []).map((use) => (
            <label key={use} className="flex items-center gap-2 py-0.5">
              <input
                type="checkbox"
                checked={uses.includes(use)}
                onChange={() =>
                  setChosen(uses.includes(use) ? uses.filter((one) => one !== use) : inOrder([...uses, use], columns))
                }
              />
              {use}
            </label>
          ))}
        </fieldset>
        <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
          <label className="flex items-center gap-2">
            <span className="text-ink-2">Form</span>
            <Select value={form} onChange={(event) => setForm(event.target.value as RowsOutAsk['form'])}>
              <option value="csv">CSV</option>
              <option value="json lines">JSON lines</option>
            </Select>
          </label>
          {form === 'csv' && <NothingInput value={nothing} onType={setNothing} />}
        </div>
        {said !== null && (
          <p role={said.problem ? 'alert' : 'status'} className={said.problem ? 'text-harm' : 'text-fine'}>
            {said.text}
          </p>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Close</Button>
          <Button strong disabled={busy || uses.length === 0} onClick={() => void save()}>
            {busy ? 'Reading the rows…' : 'Save the file'}
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

function useColumns(tree: string, entity: string): FileColumns | null {
  const [columns, setColumns] = useState<FileColumns | null>(null);
  useEffect(() => {
    let asked = true;
    void fileColumns(tree, entity).then((found) => {
      if (asked) setColumns(found);
    });
    return () => {
      asked = false;
    };
  }, [tree, entity]);
  return columns;
}

/** The columns in the order in which they are offered. */
function inOrder(uses: readonly string[], columns: FileColumns | null): readonly string[] {
  return (columns?.uses ?? []).filter((use) => uses.includes(use));
}
