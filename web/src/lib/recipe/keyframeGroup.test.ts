import { describe, expect, it } from 'vitest';
import {
	copiedKeyframes,
	movedTogether,
	stretchedFrom,
	withoutPicked,
	withPasted
} from './keyframeGroup';
import type { Keyframes } from './recipe';

const WINDOW = { before: 10, after: 10 };
const ANY = { low: -100, high: 100 };
const keyframes: Keyframes = {
	kind: 'keyframes',
	keyframes: [-0.8, -0.6, -0.4, 0.5].map((at, n) => ({
		at,
		value: n,
		easing: n ? 'linear' : 'ease-in'
	}))
};
const frames = (made: Keyframes) => made.keyframes.map(({ at }) => Number((at * 10).toFixed(3)));
const values = (made: Keyframes) => made.keyframes.map(({ value }) => value);

describe('picked keyframes', () => {
	it('move together, and pass none that is not picked', () => {
		const moved = movedTogether(keyframes, [1, 2], { frames: 2, value: 5 }, WINDOW, ANY);
		expect(frames(moved)).toEqual([-8, -4, -2, 5]);
		expect(values(moved)).toEqual([0, 6, 7, 3]);
		const far = movedTogether(keyframes, [1, 2], { frames: 50, value: 0 }, WINDOW, ANY);
		expect(frames(far)).toEqual([-8, 2.99, 4.99, 5]);
		const low = movedTogether(keyframes, [0], { frames: -50, value: -9 }, WINDOW, {
			low: 0,
			high: 9
		});
		expect([frames(low)[0], values(low)[0]]).toEqual([-10, 0]);
	});
	it('are stretched from a time, unless they would pass others', () => {
		expect(frames(stretchedFrom(keyframes, [0, 1, 2], -8, 2, WINDOW))).toEqual([-8, -4, 0, 5]);
		expect(stretchedFrom(keyframes, [0, 1, 2], -8, 5, WINDOW)).toBe(keyframes);
	});
	it('are deleted, but for the last', () => {
		expect(frames(withoutPicked(keyframes, [1, 2]))).toEqual([-8, 5]);
		expect(frames(withoutPicked(keyframes, [0, 1, 2, 3]))).toEqual([-8]);
	});
	it('are pasted from a time on, in place of what is there', () => {
		const copied = copiedKeyframes(keyframes, [0, 1, 2], WINDOW);
		expect(copied.map((each) => Number(each.frames.toFixed(3)))).toEqual([0, 2, 4]);
		const pasted = withPasted(keyframes, copied, 3, false, WINDOW, ANY);
		expect(frames(pasted)).toEqual([-8, -6, -4, 3, 5, 7]);
		expect(values(pasted)).toEqual([0, 1, 2, 0, 1, 2]);
	});
	it('are pasted mirrored, with the easing of the way back', () => {
		const copied = copiedKeyframes(keyframes, [0, 1, 2], WINDOW);
		const pasted = withPasted(keyframes, copied, 6, true, WINDOW, { low: 0, high: 1.5 });
		expect(frames(pasted)).toEqual([-8, -6, -4, 5, 6, 8, 10]);
		expect(values(pasted).slice(4)).toEqual([1.5, 1, 0]);
		expect(pasted.keyframes.slice(4).map(({ easing }) => easing)).toEqual([
			'linear',
			'ease-out',
			'linear'
		]);
	});
});
