/** Whether a write failed for want of room: the store's own (SQLite, “Result and Error Codes”), or a file's. */
export function isForWantOfRoom({ code }: { readonly code?: string }): boolean {
  return code === 'SQLITE_FULL' || code === 'ENOSPC';
}
