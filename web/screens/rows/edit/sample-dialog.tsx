import { useState } from 'react';
import type { DesignView, EntityView } from '../../../../core/view-models/index.js';
import { useClick } from '../../../app/use-click.js';
import { Button } from '../../../parts/button.js';
import { Dialog } from '../../../parts/dialog.js';
import { Input } from '../../../parts/input.js';
import { kindOf, titleOf } from '../row-parts.js';
import type { Row } from '../use-window.js';
import { columnsFor, entriesOf, namedEntries } from './row-form.js';

interface SampleDialogProps {
  readonly view: DesignView;
  readonly entity: EntityView;
  readonly row: Row;
  onClose(): void;
}

/** Keeps a row in the text, as a sample under a name: it is there from then on, however often the rows are made anew. */
export function SampleDialog({ view, entity, row, onClose }: SampleDialogProps) {
  const click = useClick();
  const [name, setName] = useState('');
  const [problem, setProblem] = useState('');
  const of = view.entities.find((one) => one.name === kindOf(row, entity.name)) ?? entity;
  const columns = columnsFor(of, { kind: 'duplicate', row });
  const values = namedEntries(columns, entriesOf(columns, row), view.entities);
  const keep = async () => {
    if (!/^[a-z_]\w*$/.test(name)) {
      setProblem('The name of a sample row is made of small letters, digits and _.');
      return;
    }
    const [first] = await click({ kind: 'add sample row', entity: of.name, name, values }, `keep ${titleOf(row)} as a sample`);
    if (first === undefined) onClose();
    else setProblem(first);
  };
  return (
    <Dialog title={`Keep ${titleOf(row)} as a sample`} onClose={onClose}>
      <form
        className="space-y-3 px-5 py-3"
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <p className="text-ink-2">
          The text gets a line for it. Others point at it by its name, as in {of.name}({name === '' ? 'ines' : name}).
        </p>
        <label className="flex items-center gap-3">
          <span className="w-36 shrink-0 text-ink-2">Its name</span>
          <Input code autoFocus value={name} onChange={(event) => setName(event.target.value)} />
        </label>
        {problem !== '' && (
          <p role="alert" className="text-harm">
            {problem}
          </p>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Close</Button>
          <Button strong type="submit">
            Keep
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
