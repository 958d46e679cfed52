import { useState } from 'react';
import { askDesign } from '../../app/design-client.js';
import { store, useAppDispatch } from '../../app/store.js';
import { textChanged } from '../../app/workspace.js';
import { Button } from '../../parts/button.js';
import { Dialog } from '../../parts/dialog.js';
import { Input } from '../../parts/input.js';

/** Asks for the name of a new entity, and writes it into the text. */
export function NewEntity({ onClose, onAdded }: { onClose(): void; onAdded(name: string): void }) {
  const dispatch = useAppDispatch();
  const [name, setName] = useState('');
  const [problem, setProblem] = useState<string | null>(null);
  const add = async () => {
    const { text } = store.getState().workspace;
    if (!/^[A-Z][A-Za-z0-9_]*$/.test(name)) {
      setProblem('The name of an entity begins with a capital, and is made of letters, digits and _.');
      return;
    }
    const clicked = await askDesign('click', { text, click: { kind: 'add entity', name } });
    const [first] = clicked.problems;
    if (first !== undefined) {
      setProblem(first);
      return;
    }
    dispatch(textChanged(clicked.text, `add entity ${name}`));
    onAdded(name);
    onClose();
  };
  return (
    <Dialog title="Add an entity" onClose={onClose}>
      <form
        className="space-y-3 p-5"
        onSubmit={(event) => {
          event.preventDefault();
          void add();
        }}
      >
        <label className="block">
          <span className="text-ink-2">Its name, as one of them is called</span>
          <Input
            autoFocus
            value={name}
            placeholder="Shelf"
            code
            className="mt-1 block w-72"
            onChange={(event) => {
              setName(event.target.value);
              setProblem(null);
            }}
          />
        </label>
        {problem !== null && (
          <p role="alert" className="text-harm">
            {problem}
          </p>
        )}
        <p className="text-small text-ink-2">It gets a key and a name; you change both in the text or on its card.</p>
        <Button strong type="submit" disabled={name === ''}>
          Add
        </Button>
      </form>
    </Dialog>
  );
}
