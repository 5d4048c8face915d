import { describe, expect, it } from 'vitest';
import { shownNumber, timecode } from './numbers';
import { typedNumber } from './typed';

describe('what is typed', () => {
	it.each([
		['0.25', 0.25],
		['0,25', 0.25],
		['−3', -3],
		['30/2', 15],
		['+5', 15],
		['*1.5', 15],
		['×2', 20],
		['/4', 2.5],
		['-5', -5],
		['2*(3+4)-1', 13],
		['1e-3', 0.001],
		['.5', 0.5],
		[' 7 ', 7]
	])('%s over 10 is %d', (text, value) => {
		expect(typedNumber(text, 10)).toEqual({ value });
	});

	it.each(['', 'ten', '3 px', '1..2', '2+', '(3', '3)', '1:12', '4 4'])(
		'%s is no number',
		(text) => {
			expect(typedNumber(text, 10)).toHaveProperty('problem', expect.stringContaining('30/2'));
		}
	);

	it('cannot be divided by nothing', () => {
		expect(typedNumber('3/0', 1)).toEqual({ problem: 'Nothing can be divided by 0' });
	});

	it('is a time where it counts frames', () => {
		expect(typedNumber('1:12', 0, 25)).toEqual({ value: 37 });
		expect(typedNumber('1:00:00', 0, 25)).toEqual({ value: 1500 });
		expect(typedNumber('1:90', 0, 25)).toEqual({ value: 115 });
		for (const frame of [0, 1799, 1800, 17981, 17982, 107892]) {
			const rate = 30000 / 1001;
			expect(typedNumber(timecode(frame, rate), 0, rate)).toEqual({ value: frame });
		}
	});
});

describe('a shown number', () => {
	it.each([
		[0.25, 0.1, '0.25'],
		[22.123456, 1, '22.123'],
		[0.123456, 0.1, '0.12346'],
		[7.000000000000001, 0.1, '7'],
		[12345.6, 0.1, '12345.6'],
		[-3.5, 1, '-3.5'],
		[0, 0.1, '0'],
		[1 / 3, 0.01, '0.33333']
	])('%d is not rounded away by a step of %d: %s', (value, step, text) => {
		expect(shownNumber(value, step)).toBe(text);
	});
});
