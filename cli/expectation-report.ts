import type { ExpectationRun } from '../services/index.js';

/**
 * How expectations came out, as build servers read it: a suite of the text, a case for each expectation, with a failure for what
 * does not hold and an error for what could not be tried. https://github.com/testmoapp/junitxml
 */
export function reportOf(file: string, runs: readonly ExpectationRun[]): string {
  const failures = runs.filter(({ problem, lines }) => problem === null && lines.some(({ broken }) => broken !== null)).length;
  const errors = runs.filter(({ problem }) => problem !== null).length;
  const seconds = (milliseconds: number) => (milliseconds / 1000).toFixed(3);
  const time = seconds(runs.reduce((sum, run) => sum + run.milliseconds, 0));
  const counts = `tests="${runs.length}" failures="${failures}" errors="${errors}" time="${time}"`;
  const cases = runs.map(({ label, lines, problem, milliseconds }) => {
    const broken = lines.flatMap((line) => (line.broken === null ? [] : [`${line.text}: ${line.broken}`]));
    const told =
      problem !== null
        ? `<error message="${escaped(problem)}"/>`
        : broken.map((message) => `<failure message="${escaped(message)}"/>`).join('');
    const head = `<testcase classname="${escaped(file)}" name="${escaped(label)}" time="${seconds(milliseconds)}"`;
    return told === '' ? `    ${head}/>` : `    ${head}>${told}</testcase>`;
  });
  const suite = [`  <testsuite name="${escaped(file)}" ${counts}>`, ...cases, '  </testsuite>'];
  return ['<?xml version="1.0" encoding="UTF-8"?>', `<testsuites ${counts}>`, ...suite, '</testsuites>', ''].join('\n');
}

const ESCAPES: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  '\n': '&#10;',
  '\t': '&#9;',
};

/** A text within an attribute; what XML 1.0 has no way to write (2.2) is left out. */
function escaped(text: string): string {
  return Array.from(text, (letter) => ESCAPES[letter] ?? (isAllowed(letter.codePointAt(0) ?? 0) ? letter : '')).join('');
}

function isAllowed(code: number): boolean {
  return code >= 0x20 && !(code >= 0xd800 && code <= 0xdfff) && code !== 0xfffe && code !== 0xffff;
}
