import type { FieldView } from '../../core/view-models/index.js';

/** A value that does not fit its type, as it is stored and marked. */
export function storedText(stored: unknown): string {
  if (typeof stored === 'object' && stored !== null && 'bytes' in stored) return `▲ bytes ${String(stored.bytes)}`;
  return `▲ ${JSON.stringify(stored)}`;
}

/** Whether an answer has this in the place of what may not be seen. */
export function isHidden(value: unknown): boolean {
  return (
    typeof value === 'object' && value !== null && 'hidden' in value && value.hidden === true && Object.keys(value).length === 1
  );
}

/** Says that something is there and may not be seen. */
export function Hidden() {
  return (
    <span className="text-ink-2 italic" title="It is there, and may not be seen by whoever asks.">
      hidden
    </span>
  );
}

/** A value as its type has it; an empty one is a light dash. */
export function FieldValue({
  value,
  field,
  whole = false,
}: {
  readonly value: unknown;
  readonly field: FieldView;
  readonly whole?: boolean;
}) {
  if (isHidden(value)) return <Hidden />;
  if (value === null || value === undefined)
    return (
      <span title="null" className="text-ink-3">
        –
      </span>
    );
  if (isHidden(value)) return <Hidden />;
  if (typeof value === 'object' && 'asStored' in value)
    return (
      <span className="text-to-many" title="This value does not fit its type; it is shown as it is stored.">
        {storedText(value.asStored)}
      </span>
    );
  const text = typeof value === 'string' ? value : JSON.stringify(value);
  const title = field.titles[text];
  if (title !== undefined) return <span title={`'${text}'`}>{title}</span>;
  switch (field.kind) {
    case 'real':
      return <span title={text}>{typeof value === 'number' ? shownNumber(value) : text}</span>;
    case 'timestamp':
      return <span title={`${text}, UTC`}>{moment(text)}</span>;
    case 'bytes':
      return <span title={text.slice(0, 60)}>{size(text)}</span>;
    case 'uuid':
      return <span title={text}>{whole ? text : `${text.slice(0, 8)}…`}</span>;
    default:
      return whole ? (
        <span className="whitespace-pre-wrap">{text}</span>
      ) : (
        <span title={text.length > 40 ? text : undefined}>{text.length > 200 ? `${text.slice(0, 200)}…` : text}</span>
      );
  }
}

/** A number by the fifteen digits that a person means: a double has no word for most decimal fractions. */
export function shownNumber(value: number): string {
  return String(Number(value.toPrecision(15)));
}

/** Numbers stand at the right, so that their digits are below each other. */
export function isNumber({ kind }: FieldView): boolean {
  return ['integer', 'bigint', 'decimal', 'real'].includes(kind);
}

/** How wide a column of this type begins, in pixels. */
export function widthOf(field: FieldView): number {
  const head = field.name.length * 7.6 + 40;
  switch (field.kind) {
    case 'integer':
    case 'bigint':
      return Math.max(72, head);
    case 'timestamp':
      return Math.max(178, head);
    case 'date':
      return Math.max(104, head);
    case 'text':
      return Math.max(/\((\d+)\)/.exec(field.type)?.[1] === undefined ? 240 : 190, head);
    default:
      return Math.max(100, head);
  }
}

function moment(text: string): string {
  const parts = /^(\d{4}-\d\d-\d\d)T(\d\d:\d\d)(:\d\d)?(?:\.(\d+))?/.exec(text);
  if (parts === null) return text;
  const seconds = parts[3] === undefined || parts[3] === ':00' ? '' : parts[3];
  return `${parts[1]} ${parts[2]}${seconds}`;
}

/** Bytes travel as base64, four letters for three of them. */
function size(base64: string): string {
  const bytes = Math.floor((base64.replace(/=+$/, '').length * 3) / 4);
  return bytes < 1024
    ? `${bytes} bytes`
    : bytes < 1024 * 1024
      ? `${(bytes / 1024).toFixed(1)} kB`
      : `${(bytes / 1024 / 1024).toFixed(1)} MB`;
}
