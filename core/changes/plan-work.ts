/** Questions to the rows, each a statement that reads, resumed with what it brought. */
export type PlanWork<Result> = Generator<string, Result, readonly (readonly unknown[])[]>;
