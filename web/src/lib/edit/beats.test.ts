import { describe, expect, it } from 'vitest';
import { beatsIn, framesABeat, tapped, toNearestBeat } from './beats';

const demo = { perMinute: 100, offsetS: 0, rate: 25 };

describe('beats', () => {
	it('at 100 a minute and 25 frames a second come every 15 frames', () => {
		expect(framesABeat(demo)).toBe(15);
		expect(beatsIn(demo, 60)).toEqual([0, 15, 30, 45, 60]);
		expect(beatsIn({ ...demo, offsetS: 0.2 }, 30)).toEqual([5, 20]);
	});
	it('are thinned where there are too many to draw', () => {
		expect(beatsIn(demo, 15_000, 100).length).toBeLessThanOrEqual(100);
	});
	it('give the distance to the nearest', () => {
		expect([0, 7, 8, 14, 22].map((frame) => toNearestBeat(demo, frame))).toEqual([0, -7, 7, 1, -7]);
	});
	it('that drift are those that were heard', () => {
		const drifting = { ...demo, timesS: [0.1, 0.72, 1.36] };
		expect(beatsIn(drifting, 60).map(Math.round)).toEqual([3, 18, 34]);
		expect([0, 12, 25, 40].map((frame) => toNearestBeat(drifting, frame))).toEqual([3, 6, -7, -6]);
	});
	it('are counted from taps', () => {
		expect(tapped([0])).toBeNull();
		expect(tapped([0, 600, 1200])).toBe(100);
	});
});
