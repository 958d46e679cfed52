import { type ReactNode, useRef, useState } from 'react';

/** A place to drop a file on, or to choose one from. */
export function ChooseFile({
  label,
  accept,
  disabled,
  children,
  onChoose,
}: {
  readonly label: string;
  readonly accept: string;
  readonly disabled: boolean;
  readonly children?: ReactNode;
  onChoose(file: File): void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const take = (file: File | undefined) => {
    if (file !== undefined && !disabled) onChoose(file);
  };
  return (
    <label
      className={`block border border-dashed p-4 ${over ? 'border-selected bg-wash' : 'border-line-2 bg-label'} ${disabled ? 'opacity-50' : ''}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        take(event.dataTransfer.files[0]);
      }}
    >
      <span className="block font-semibold">{label}</span>
      {children}
      <input
        ref={input}
        type="file"
        accept={accept}
        aria-label={label}
        disabled={disabled}
        className="mt-2 block w-full text-small file:mr-3 file:rounded-sm file:border file:border-solid file:border-line-2 file:bg-label file:px-3 file:py-1 file:text-base file:text-ink"
        onChange={(event) => {
          take(event.target.files?.[0]);
          event.target.value = '';
        }}
      />
    </label>
  );
}
