import { describe, expect, it } from 'vitest';
import { ordinal, sizeText, timecode } from './numbers';

describe('timecode', () => {
	it('counts whole seconds at whole rates', () => {
		expect(timecode(0, 25)).toBe('00:00:00:00');
		expect(timecode(25 * 3661 + 7, 25)).toBe('01:01:01:07');
		expect(timecode(24 * 60, 24000 / 1001)).toBe('00:01:00:00');
	});

	// Figures as OpenTimelineIO's to_timecode gives them for SMPTE ST 12-1 drop-frame.
	it.each([
		[1799, '00:00:59;29'],
		[1800, '00:01:00;02'],
		[3597, '00:01:59;29'],
		[3598, '00:02:00;02'],
		[17981, '00:09:59;29'],
		[17982, '00:10:00;00'],
		[107892, '01:00:00;00']
	])('drops the numbers of frame %i at 29.97', (frame, written) => {
		expect(timecode(frame, 30000 / 1001)).toBe(written);
	});

	it('drops four numbers at 59.94', () => {
		expect(timecode(17982, 60000 / 1001)).toBe('00:04:59;58');
		expect(timecode(3600, 60000 / 1001)).toBe('00:01:00;04');
	});
});

describe('sizes', () => {
	it('have three digits and the unit that fits', () => {
		const texts = [0, 999, 1000, 640_000, 1_500_000_000].map(sizeText);
		expect(texts).toEqual(['0 bytes', '999 bytes', '1 kB', '640 kB', '1.5 GB']);
	});
});

it('places have their endings', () => {
	expect([1, 2, 3, 4, 11, 12, 13, 21, 22, 64].map(ordinal).join(' ')).toBe(
		'1st 2nd 3rd 4th 11th 12th 13th 21st 22nd 64th'
	);
});
