import { useState } from 'react';
import { deleteText, type RowName } from '../../../../core/edits/index.js';
import type { DesignView, EntityView, RoleView } from '../../../../core/view-models/index.js';
import { ExportDialog } from '../files/export-dialog.js';
import { ImportDialog } from '../files/import-dialog.js';
import type { RowsQuestion } from '../place.js';
import { titleOf } from '../row-parts.js';
import type { Row } from '../use-window.js';
import { DeleteDialog } from './delete-dialog.js';
import { nameOf } from './entries.js';
import { LinkDialog } from './link-dialog.js';
import { type FormPurpose, RowForm } from './row-form.js';
import { SampleDialog } from './sample-dialog.js';

/** Rows of a condition that are to be deleted, and how many they are. */
export interface DeleteRows {
  readonly entity: string;
  readonly where: string;
  readonly rows: number;
}

/** The dialog over the rows that is open. */
export type RowDialog =
  /** `of`: the entity of the row that is made; null for the one whose rows are in view. */
  | { readonly kind: 'form'; readonly purpose: FormPurpose; readonly of?: EntityView }
  | { readonly kind: 'delete'; readonly row: Row }
  | { readonly kind: 'sample'; readonly row: Row }
  | { readonly kind: 'delete found'; readonly found: DeleteRows }
  | { readonly kind: 'import' }
  | { readonly kind: 'export'; readonly asked: RowsQuestion; readonly total: number }
  | { readonly kind: 'link'; readonly owner: RowName; readonly title: string; readonly role: RoleView };

export interface ShownDialog {
  readonly shown: RowDialog | null;
  show(dialog: RowDialog): void;
  close(): void;
}

/** Keeps which dialog is open. */
export function useRowDialogs(): ShownDialog {
  const [shown, setShown] = useState<RowDialog | null>(null);
  return { shown, show: setShown, close: () => setShown(null) };
}

interface RowDialogsProps {
  readonly tree: string;
  readonly view: DesignView;
  readonly entity: EntityView;
  readonly dialogs: ShownDialog;
  readonly mayWrite: boolean;
  onOpen(entity: string, key: string): void;
  onWritten(entity: string, key: string): void;
}

/** The dialog that is open over the rows, where one is. */
export function RowDialogs({ tree, view, entity, dialogs, mayWrite, onOpen, onWritten }: RowDialogsProps) {
  const { shown, close } = dialogs;
  const deleting = { tree, mayWrite, onClose: close, onOpen };
  switch (shown?.kind) {
    case undefined:
      return null;
    case 'form':
      return (
        <RowForm
          tree={tree}
          view={view}
          entity={shown.of ?? entity}
          purpose={shown.purpose}
          onClose={close}
          onWritten={onWritten}
        />
      );
    case 'delete': {
      const name = nameOf(entity.name, shown.row[entity.key], view.entities);
      return name === null ? null : <DeleteDialog {...deleting} what={titleOf(shown.row)} commands={deleteText([name])} />;
    }
    case 'sample':
      return <SampleDialog view={view} entity={entity} row={shown.row} onClose={close} />;
    case 'delete found': {
      const { found } = shown;
      const what = `${found.rows.toLocaleString('en')} rows of ${found.entity}`;
      return <DeleteDialog {...deleting} what={what} commands={deleteText(found)} />;
    }
    case 'import':
      return <ImportDialog tree={tree} entity={entity.name} onClose={close} />;
    case 'export':
      return <ExportDialog tree={tree} entity={entity.name} asked={shown.asked} total={shown.total} onClose={close} />;
    case 'link':
      return (
        <LinkDialog
          tree={tree}
          owner={shown.owner}
          title={shown.title}
          role={shown.role}
          entities={view.entities}
          onClose={close}
        />
      );
  }
}
