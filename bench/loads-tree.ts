/** Players, their loans, and remarks on those: what loads are measured on. */
export const LOADS = `tree 'Loads'

entity Player
  id    integer key
  name  text(80)
  town  text(40)

entity Loan
  id      integer key
  due_on  date
  memo    text(80)

entity Remark
  id    integer key
  body  text(80)

relation borrowing
  Loan knows one Player as borrower
  Player knows many Loan as loans

relation about
  Remark knows one Loan as loan
  Loan knows many Remark as remarks
`;

export const LOADS_QUERY = 'from Player\nload loans\n  remarks';
