/** Each benchmark prints a ratio against its reference, measured in the same run. */
import { benchLoading } from './loading.js';
import { benchReading } from './reading.js';

for (const bench of [benchReading, benchLoading]) for (const line of bench()) process.stdout.write(`${line}\n`);
