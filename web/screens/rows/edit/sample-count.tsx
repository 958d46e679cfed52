import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { useState } from 'react';
import type { EntityView } from '../../../../core/view-models/index.js';
import { useAppSelector } from '../../../app/store.js';
import { useClick } from '../../../app/use-click.js';
import { Button } from '../../../parts/button.js';
import { Input } from '../../../parts/input.js';

const MOST = 1_000_000;

/** How many rows of an entity are made as samples; the text is written, and the rows are made anew. */
export function SampleCount({ entity }: { readonly entity: EntityView }) {
  const madeHere = useAppSelector((state) => state.workspace.tree?.kind === 'made');
  const click = useClick();
  const [count, setCount] = useState('');
  const [problem, setProblem] = useState('');
  if (!madeHere || entity.concrete[0] !== entity.name) return null;
  const set = async (close: () => void) => {
    const wanted = Number(count);
    if (!/^\d+$/.test(count) || wanted > MOST) {
      setProblem(`Write how many, up to ${MOST.toLocaleString('en')}.`);
      return;
    }
    const [first] = await click(
      { kind: 'sample count', entity: entity.name, count: wanted },
      `${count} samples of ${entity.name}`,
    );
    setProblem(first ?? '');
    if (first === undefined) close();
  };
  return (
    <Popover className="relative">
      <PopoverButton className="rounded-sm border border-line-2 bg-label px-2.5 py-0.5 hover:border-ink-3">Samples</PopoverButton>
      <PopoverPanel className="absolute top-8 right-0 z-30 w-72 border border-line-2 bg-label p-3 shadow-slip">
        {({ close }) => (
          <form
            onSubmit={(event) => {
              event.preventDefault();
              void set(close);
            }}
          >
            <label className="flex items-center gap-2">
              <span className="text-ink-2">Rows beside the named</span>
              <Input
                code
                className="w-24"
                inputMode="numeric"
                placeholder={String(entity.sampleCount ?? 12)}
                value={count}
                onChange={(event) => setCount(event.target.value)}
              />
            </label>
            {problem !== '' && (
              <p role="alert" className="mt-1 text-small text-harm">
                {problem}
              </p>
            )}
            <p className="mt-1 text-small text-ink-2">The text says it, and the rows are made anew.</p>
            <Button strong type="submit" className="mt-2">
              Make them
            </Button>
          </form>
        )}
      </PopoverPanel>
    </Popover>
  );
}
