/** A statement log of an application, held against its design: what asks once for each row, what costs most, what has no index. */

export { type LoggedStatement, LogLines } from './lines.js';
export { type LoggedShape, LogReading, type LogReport } from './report.js';
export { shapeOf } from './shape.js';
