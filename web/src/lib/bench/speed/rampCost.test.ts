import { describe, expect, it } from 'vitest';
import { rampCost } from './rampCost';

const PLACED = { spare_before: 12, spare_after: null };

describe('the cost of a speed ramp', () => {
	it('is paid at the far end where cuts keep their times', () => {
		expect(rampCost('outgoing', 'slip', 8, PLACED)).toBe('Uses 8 of 12 frames before the in point');
		expect(rampCost('incoming', 'slip', 1, PLACED)).toBe('Uses 1 frame after the out point');
		expect(rampCost('incoming', 'slip', -3, PLACED)).toBe(
			'Leaves 3 frames more after the out point'
		);
	});

	it('is paid by the length of the edit where it ripples', () => {
		expect(rampCost('outgoing', 'ripple', 8, PLACED)).toBe('Makes the edit 8 frames shorter');
		expect(rampCost('outgoing', 'ripple', -2, PLACED)).toBe('Makes the edit 2 frames longer');
	});

	it('is nothing where the ramp uses as many frames as the window has', () => {
		expect(rampCost('outgoing', 'slip', 0, PLACED)).toBe('Uses no spare frames');
	});
});
