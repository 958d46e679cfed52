/** The naive evaluator of queries, to test against: it looks at every row, and knows no SQL. */
export { answerNaively, Beyond, type OracleAnswer, type OracleRow, type World } from './oracle.js';
