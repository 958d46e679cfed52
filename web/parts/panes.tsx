import type { ReactNode } from 'react';
import { Group, Panel, Separator, useDefaultLayout } from 'react-resizable-panels';
import { preferences } from '../app/preferences.js';

const ONE = ['first'];
const BOTH = ['first', 'second'];

/** Two panes with a border that is dragged, and remembered under a name. */
export function Panes({
  name,
  direction,
  first,
  second,
  share,
  alone = false,
}: {
  readonly name: string;
  readonly direction: 'horizontal' | 'vertical';
  readonly first: ReactNode;
  readonly second: ReactNode;
  /** The first one's share in a hundred, at the start. */
  readonly share: number;
  /** The first has all the room; the second keeps its share for when it comes back. */
  readonly alone?: boolean;
}) {
  const { defaultLayout, onLayoutChanged } = useDefaultLayout({
    id: `panes ${name}`,
    panelIds: alone ? ONE : BOTH,
    storage: preferences,
  });
  const border = direction === 'horizontal' ? 'w-px cursor-col-resize' : 'h-px cursor-row-resize';
  return (
    <Group orientation={direction} defaultLayout={defaultLayout} onLayoutChanged={onLayoutChanged} className="h-full min-h-0">
      <Panel id="first" defaultSize={alone ? '100%' : `${share}%`} minSize="15%" className="min-h-0 min-w-0">
        {first}
      </Panel>
      {!alone && <Separator className={`bg-line-2 hover:bg-selected focus-visible:bg-selected ${border}`} />}
      {!alone && (
        <Panel id="second" defaultSize={`${100 - share}%`} minSize="15%" className="min-h-0 min-w-0">
          {second}
        </Panel>
      )}
    </Group>
  );
}
