import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { writtenName } from './label-name.js';

const kindAt = (zoom: number) => writtenName('Instrument', { width: 190, height: 130 }, zoom).kind;

describe('the name on a label', () => {
  test('stands alone from far, above its keys from nearer, at the head of all lines from near', () => {
    expect([0.1, 0.43, 0.44, 0.93, 0.94, 2].map(kindAt)).toEqual(['alone', 'alone', 'above keys', 'above keys', 'head', 'head']);
  });

  test('that is too long for one line is parted between its words, where there is room for two', () => {
    const size = { width: 160, height: 90 };
    expect(writtenName('StringInstrument', size, 0.5)).toMatchObject({ lines: ['String', 'Instrument'], isTight: false });
    expect(writtenName('Stringinstrument', size, 0.5)).toMatchObject({ lines: ['Stringinstrument'], isTight: true });
    expect(writtenName('StringInstrument', { ...size, height: 50 }, 0.5)).toMatchObject({ lines: ['StringInstrument'] });
  });

  test('has room for fewer keys the more lines it takes itself', () => {
    const room = (name: string) => {
      const written = writtenName(name, { width: 160, height: 130 }, 0.5);
      return written.kind === 'above keys' ? written.room : null;
    };
    expect([room('Loan'), room('StringInstrument')]).toEqual([2, 2]);
    expect(writtenName('Loan', { width: 160, height: 160 }, 0.5)).toMatchObject({ room: 3 });
  });

  test('loses and adds no letter, in however many lines it stands', () => {
    const name = fc.stringMatching(/^[A-Z][a-zA-Z0-9]{0,60}$/);
    const size = fc.record({ width: fc.integer({ min: 20, max: 400 }), height: fc.integer({ min: 10, max: 400 }) });
    fc.assert(
      fc.property(name, size, fc.double({ min: 0.05, max: 0.93, noNaN: true }), (wanted, label, zoom) => {
        const written = writtenName(wanted, label, zoom);
        expect(written.kind === 'head' ? wanted : written.lines.join('')).toBe(wanted);
      }),
    );
  });
});
