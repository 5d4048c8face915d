import { describe, expect, it } from 'vitest';
import { durationText, estimateText, nameParts, newRender, type Choice } from './renderChoice';

const CHOICE: Choice = {
	what: 'window',
	format: 'h264',
	quality: 'high',
	size: 'half',
	handles: 8,
	sound: true,
	accents_apart: false,
	window_name: '{edit} {cut}',
	edit_name: '{edit} final'
};

describe('what is asked for', () => {
	it('names the cut for one window and the edit for everything else', () => {
		const subject = { edit: 'e', cut: 'c' };
		expect(newRender(subject, CHOICE)).toMatchObject({ cut: 'c', name: '{edit} {cut}' });
		const whole = newRender(subject, { ...CHOICE, what: 'round_trip' });
		expect(whole).toMatchObject({ edit: 'e', name: '{edit} final' });
		expect(whole).not.toHaveProperty('cut');
	});

	it('offers the parts of a name that the file has', () => {
		expect(nameParts('windows')).toContain('{cut}');
		expect(nameParts('edit')).toEqual(['{edit}']);
	});
});

describe('what is shown', () => {
	it('gives durations in the unit that fits', () => {
		expect([0.2, 42, 600, 9000].map(durationText)).toEqual(['1 s', '42 s', '10 min', '2.5 h']);
	});

	it('gives an estimate in one line', () => {
		const estimate = { frames: 44, width: 1280, height: 720, bytes: 2_400_000, seconds: 12 };
		expect(estimateText({ ...estimate, file_name: 'a.mp4' })).toBe(
			'44 frames, 1280×720, about 2.4 MB, about 12 s'
		);
	});
});
