import { useId, useState } from 'react';
import { rowText } from '../../../core/edits/index.js';
import { type PickedRow, RowPicker } from '../../app/row-picker.js';
import { Select } from '../../parts/input.js';
import type { DesignView } from '../../workers/design-view.js';

interface WorkingAsProps {
  readonly tree: string;
  readonly view: DesignView;
  /** The entity whose rows can be at work. */
  readonly actor: string;
  /** As the text would say it; empty for the system. */
  readonly value: string;
  onChange(value: string): void;
}

/** On whose behalf a query is asked: the system sees all rows, anybody else what the walls let through. */
export function WorkingAs({ tree, view, actor, value, onChange }: WorkingAsProps) {
  const id = useId();
  const [picking, setPicking] = useState(false);
  const isNamed = value !== '' && value !== 'nobody';
  const isRow = picking || isNamed;
  const keyType = view.entities.find(({ name }) => name === actor)?.keyType;
  const pick = (row: PickedRow | null) => {
    if (row === null || keyType === undefined) return;
    setPicking(false);
    onChange(rowText({ entity: actor, keyType, key: row.key }));
  };
  return (
    <div className="mb-3 space-y-1">
      <label htmlFor={id} className="font-serif text-ink-2 italic">
        Working as
      </label>
      <Select
        id={id}
        className="w-full"
        value={isRow ? 'row' : value}
        onChange={({ target }) => {
          setPicking(target.value === 'row');
          if (target.value !== 'row') onChange(target.value);
        }}
      >
        <option value="">system, which sees all rows</option>
        <option value="nobody">nobody</option>
        <option value="row">a row of {actor}</option>
      </Select>
      {isRow && (
        <RowPicker
          tree={tree}
          label={`The ${actor} at work`}
          entities={[actor]}
          value={isNamed ? { entity: actor, key: value, shown: value } : null}
          immediate={picking}
          className="w-full"
          onPick={pick}
        />
      )}
    </div>
  );
}
