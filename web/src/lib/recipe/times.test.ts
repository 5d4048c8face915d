import { describe, expect, it } from 'vitest';
import { swellTo, type Keyframes, type Recipe, type Swell } from './recipe';
import {
	countedEnvelope,
	onFrames,
	placedEnvelope,
	seenOf,
	statedEnvelope,
	timeAt,
	uAt
} from './times';

const WINDOW = { before: 4, after: 8 };
const frames = (count: number) => ({ frames: count }) as unknown as number;

describe('a time in frames', () => {
	it('is u in a window, and ends at its ends', () => {
		expect(uAt({ frames: -1 }, WINDOW)).toBe(-0.25);
		expect(uAt({ frames: 2 }, WINDOW)).toBe(0.25);
		expect(uAt({ frames: -9 }, WINDOW)).toBe(-1);
		expect(uAt({ frames: -9 }, WINDOW, 20)).toBe(-2.25);
	});
	it('counts half frames', () => {
		expect(timeAt(-0.125, WINDOW, true)).toEqual({ frames: -0.5 });
		expect(timeAt(0, WINDOW, true)).toEqual({ frames: 0 });
		expect(timeAt(-0.125, WINDOW, false)).toBe(-0.125);
	});
});

describe('where a clip is seen', () => {
	it('goes to the cut, and over it as far as a mix shows it', () => {
		expect(seenOf('outgoing', { kind: 'cut' }, WINDOW)).toEqual({ from: -4, to: 0 });
		expect(seenOf('incoming', { kind: 'dissolve' }, WINDOW)).toEqual({ from: -4, to: 8 });
		const mix = { kind: 'wipe', span: [-0.5, { frames: 2 }] as [number, { frames: number }] };
		expect(seenOf('outgoing', mix, WINDOW)).toEqual({ from: -4, to: 2 });
		expect(seenOf('incoming', mix, WINDOW)).toEqual({ from: -2, to: 8 });
	});
});

describe('an envelope with times in frames', () => {
	const stated: Swell = { ...swellTo(3), start: frames(-2), end: 1 };
	it('is shown with times as u, and given back as it is stated', () => {
		const placed = placedEnvelope(stated, WINDOW) as Swell;
		expect(placed.start).toBe(-0.5);
		expect(statedEnvelope(stated, placed, WINDOW)).toEqual(stated);
		expect(statedEnvelope(stated, { ...placed, start: -0.75 }, WINDOW)).toEqual({
			...stated,
			start: { frames: -3 }
		});
	});
	it('keeps the frames of the keyframes that stay', () => {
		const keyframes: Keyframes = {
			kind: 'keyframes',
			keyframes: [
				{ at: -1, value: 0, easing: 'linear' },
				{ at: frames(-0.5), value: 1, easing: 'linear' },
				{ at: frames(4), value: 0, easing: 'linear' }
			]
		};
		const placed = placedEnvelope(keyframes, WINDOW) as Keyframes;
		const fewer = { ...placed, keyframes: placed.keyframes.toSpliced(1, 1) };
		expect((statedEnvelope(keyframes, fewer, WINDOW) as Keyframes).keyframes).toEqual([
			keyframes.keyframes[0],
			keyframes.keyframes[2]
		]);
	});
	it('is counted in frames and back', () => {
		const counted = countedEnvelope(swellTo(3), WINDOW, true) as Swell;
		expect([counted.start, counted.end]).toEqual([{ frames: -4 }, { frames: 8 }]);
		expect(countedEnvelope(counted, WINDOW, false)).toEqual(swellTo(3));
	});
});

describe('a new swell', () => {
	it('peaks on both frames, also in a recipe with exact times', () => {
		const recipe = (times: Recipe['times']) => ({ times }) as Recipe;
		expect(onFrames(swellTo(1), undefined, recipe('frames'))).toEqual(swellTo(1));
		expect(onFrames(swellTo(1), 0, recipe('exact'))).toMatchObject({
			full_from: { frames: -0.5 },
			full_to: { frames: 0.5 }
		});
		expect(onFrames(swellTo(1), swellTo(2), recipe('exact'))).toEqual(swellTo(1));
	});
});
