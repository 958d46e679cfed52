/** The naive evaluator of queries, to test against: it looks at every row, and knows no SQL. */
export { answerNaively, Beyond, linesNaively, type OracleAnswer, type OracleLine, type OracleRow, type World } from './oracle.js';
