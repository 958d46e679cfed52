/** How many loans there are. */
export const ROWS = 1_000_000;
export const NOW = '2031-04-12T09:00:00.000000Z';

/** What a required fee is for the loans that are there. */
export const FEE_ANSWER = 'value loans.fee = worth / 100';

/** Loans with the given lines more. */
export const loansText = (more: string) => `tree 'Loans'

entity Player in players
  id    integer key
  name  text(60)

entity Loan in loans
  id       integer key
  lent_on  date
  due_on   date
  remark   text(80) optional
  worth    decimal(8, 2)
${more}  check due_after: due_on >= lent_on
  index (due_on)

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans
`;
