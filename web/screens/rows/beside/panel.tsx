import { useState } from 'react';
import type { DesignView, EntityView } from '../../../../core/view-models/index.js';
import { failureMessage, useRowsBesideQuery } from '../../../app/api.js';
import { useAppSelector } from '../../../app/store.js';
import type { RowsQuestion } from '../place.js';
import { type AskedAs, BesideFrame } from './frame.js';
import { BesideRows } from './rows.js';

interface BesidePanelProps {
  readonly tree: string;
  readonly asked: RowsQuestion;
  readonly entity: EntityView;
  readonly view: DesignView;
  onClose(): void;
}

/** The rows of the grid as two actors: which one of them sees and the other does not, and why. */
export default function BesidePanel({ tree, asked, entity, view, onClose }: BesidePanelProps) {
  const one = useAppSelector((state) => state.actor.as) || 'system';
  const [other, setOther] = useState<AskedAs | null>(null);
  return (
    <BesideFrame tree={tree} view={view} one={one} other={other} onChoose={setOther} onClose={onClose}>
      {other !== null && <Held tree={tree} asked={asked} entity={entity} one={one} other={other} />}
    </BesideFrame>
  );
}

interface HeldProps extends Omit<BesidePanelProps, 'view' | 'onClose'> {
  readonly one: string;
  readonly other: AskedAs;
}

function Held({ tree, asked, entity, one, other }: HeldProps) {
  const { where, orderBy, via } = asked;
  const ask = { entity: entity.name, where, orderBy, via, one, other: other.as };
  const { data, error, isFetching } = useRowsBesideQuery({ tree, ask });
  if (error !== undefined) return <p className="mt-2 text-harm">{failureMessage(error)}</p>;
  if (data === undefined || isFetching) return <p className="mt-2 text-ink-2 italic">Looking as {other.shown}…</p>;
  if (!data.ok) return <p className="mt-2 text-harm">{data.problem}</p>;
  const { rows, cut, ...counts } = data;
  const differ = rows.filter(({ differs }) => differs).length;
  const all = counts.onlyOne + counts.onlyOther + counts.both;
  const notes = [
    ...(rows.length < all
      ? ['Rows that one of them alone sees come first; not all are listed, nor held against each other.']
      : []),
    ...(cut ? ['There are more rows than are compared: filter to see the others.'] : []),
  ];
  return (
    <BesideRows
      tree={tree}
      rows={rows}
      counts={{ ...counts, differ }}
      note={notes.length === 0 ? null : notes.join(' ')}
      pair={[one, other.as]}
      shown={[one, other.shown]}
      entity={entity}
    />
  );
}
