import type { ReactNode } from 'react';
import { rowText } from '../../../../core/edits/index.js';
import type { DesignView } from '../../../../core/view-models/index.js';
import { RowPicker } from '../../../app/row-picker.js';
import { Button } from '../../../parts/button.js';

/** Somebody whom the same is asked as. */
export interface AskedAs {
  readonly as: string;
  readonly shown: string;
}

interface BesideFrameProps {
  readonly tree: string;
  readonly view: DesignView;
  /** Whoever is at work. */
  readonly one: string;
  readonly other: AskedAs | null;
  readonly children: ReactNode;
  onChoose(other: AskedAs): void;
  onClose(): void;
}

/** What somebody sees beside somebody else, who is chosen here. */
export function BesideFrame({ tree, view, one, other, children, onChoose, onClose }: BesideFrameProps) {
  const actor = view.actor === null ? undefined : view.entities.find(({ name }) => name === view.actor);
  return (
    <section
      aria-label="Beside somebody else"
      className="max-h-[60%] shrink-0 overflow-auto border-b border-line-2 bg-label px-5 py-3"
    >
      <header className="flex items-center gap-3">
        <h2 className="shrink-0 font-semibold">
          {one} beside {other?.shown ?? '…'}
        </h2>
        {['system', 'nobody']
          .filter((as) => as !== one)
          .map((as) => (
            <Button key={as} aria-pressed={other?.as === as} onClick={() => onChoose({ as, shown: as })}>
              {as}
            </Button>
          ))}
        {actor !== undefined && (
          <RowPicker
            tree={tree}
            label={`The ${actor.name} beside`}
            entities={[actor.name]}
            value={null}
            bySystem
            className="w-64"
            onPick={(row) => {
              if (row !== null)
                onChoose({ as: rowText({ entity: actor.name, keyType: actor.keyType, key: row.key }), shown: row.shown });
            }}
          />
        )}
        <span className="flex-1" />
        <Button onClick={onClose}>Close</Button>
      </header>
      {children}
    </section>
  );
}
