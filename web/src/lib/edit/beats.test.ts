import { describe, expect, it } from 'vitest';
import { beatsIn, tapped, toNearestBeat } from './beats';

describe('beats', () => {
	it('are drawn inside the edit, thinned where there are too many', () => {
		expect(beatsIn([-15, 0, 15, 30], 20)).toEqual([0, 15]);
		const many = Array.from({ length: 1000 }, (_, n) => n * 15);
		expect(beatsIn(many, 15_000, 100)).toHaveLength(100);
	});
	it('give the distance to the nearest', () => {
		const near = [0, 7, 8, 22].map((frame) => toNearestBeat([0, 15, 30], frame));
		expect(near).toEqual([0, -7, 7, -7]);
		expect(toNearestBeat([], 4)).toBeNull();
	});
	it('are counted from taps', () => {
		expect(tapped([0])).toBeNull();
		expect(tapped([0, 600, 1200])).toBe(100);
	});
});
