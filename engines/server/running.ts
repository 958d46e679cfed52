/** Is told which statement is at work, in case it never comes back. */
export type Running = (sql: string) => void;
