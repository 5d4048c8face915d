import { describe, expect, it } from 'vitest';
import { easingOf, pointsOf, reversed } from '$lib/recipe/easing';
import {
	canPaste,
	speedAt,
	fittedTo,
	speeds,
	withKeyframe,
	withNewKeyframe,
	withValueAt,
	withoutKeyframe
} from '$lib/recipe/envelopes';
import type { Parameter as Described } from '$lib/api/client';
import { handlesOf } from './envelopeHandles';
import { changeLabel } from '$lib/recipe/labels';
import { swellTo, travelBy, type Keyframes } from '$lib/recipe/recipe';

const keyframes: Keyframes = {
	kind: 'keyframes',
	keyframes: [
		{ at: -1, value: 0, easing: 'ease-in' },
		{ at: 0, value: 4, easing: 'linear' },
		{ at: 1, value: 0, easing: 'linear' }
	]
};
const handle = (envelope: Parameters<typeof handlesOf>[0], id: string) => {
	const found = handlesOf(envelope, 0).find((each) => each.id === id);
	if (!found) throw new Error(id);
	return found;
};

describe('easings', () => {
	it('have the control points of CSS Easing Functions Level 1', () => {
		expect(pointsOf('ease-in')).toEqual([0.42, 0, 1, 1]);
		expect(pointsOf('cubic-bezier(0.8, 0, 0.2, 1.2)')).toEqual([0.8, 0, 0.2, 1.2]);
		expect(pointsOf({ steepness: 0.8 })).toEqual([0.8, 0, expect.closeTo(0.2), 1]);
		expect(pointsOf('steps(4,end)')).toBeNull();
	});
	it('are their own mirror image twice', () => {
		expect(reversed('ease-in')).toBe('ease-out');
		expect(reversed('ease-in-out')).toBe('ease-in-out');
		expect(reversed('steps(3,start)')).toBe('steps(3,end)');
		const bent = 'cubic-bezier(0.9,-0.2,0.3,1.4)';
		expect(reversed(bent)).toBe('cubic-bezier(0.7,-0.4,0.1,1.2)');
		expect(reversed(reversed(bent))).toBe(bent);
	});
	it('take the name of a curve that has one', () => {
		expect(easingOf([0.25, 0.1, 0.25, 1])).toBe('ease');
	});
});

describe('a swell', () => {
	it('is moved by its peak, its ends and its plateau', () => {
		const swell = swellTo(0.2);
		expect(handle(swell, 'peak').moved({ u: 0, value: 0.5 })).toMatchObject({ peak: 0.5 });
		expect(handle(swell, 'full_from').moved({ u: -0.4, value: 0 })).toMatchObject({
			full_from: -0.4
		});
		expect(handle(swell, 'start').moved({ u: 0.7, value: 0 })).toMatchObject({ start: -0.02 });
	});
	it('is bent by its easing handles, overshoot allowed', () => {
		const bend = handle(swellTo(0.2), 'rise-bend-2');
		expect([bend.u, bend.value]).toEqual([0, 0.2]);
		expect(bend.moved({ u: -0.5, value: 0.24 })).toMatchObject({
			rise: 'cubic-bezier(0.42,0,0.5,1.2)'
		});
	});
});

describe('a travel', () => {
	it('is moved by its amount, from wherever it begins', () => {
		expect(handle({ ...travelBy(2), from: 1 }, 'amount').moved({ u: 1, value: 4 })).toMatchObject({
			amount: 3
		});
	});
});

describe('keyframes', () => {
	it('stay between their neighbours', () => {
		expect(withKeyframe(keyframes, 1, { at: 3, value: 1 }).keyframes[1]).toMatchObject({
			at: 0.999,
			value: 1
		});
		expect(withKeyframe(keyframes, 0, { at: -2 }).keyframes[0]?.at).toBe(-1);
	});
	it('are added with the easing of the divided segment, and deleted except for the last', () => {
		const more = withNewKeyframe(keyframes, -0.5, 1);
		expect(more.keyframes.map((each) => [each.at, each.easing])).toEqual([
			[-1, 'ease-in'],
			[-0.5, 'ease-in'],
			[0, 'linear'],
			[1, 'linear']
		]);
		expect(withNewKeyframe(keyframes, 0.0004, 9)).toBe(keyframes);
		expect(
			withoutKeyframe(withoutKeyframe(withoutKeyframe(keyframes, 0), 0), 0).keyframes
		).toHaveLength(1);
	});
});

it('a copied curve keeps the size of the curve that it replaces', () => {
	expect(fittedTo(swellTo(3), swellTo(0.1))).toMatchObject({ kind: 'swell', peak: 0.1 });
});

it('the speed of a curve is its slope per frame', () => {
	expect(speeds([0, 1, 2], [0, 2, 4])).toEqual([2, 2, 2]);
});

describe('the label of a change in the history', () => {
	const length = {
		name: 'length',
		label: 'Length',
		control: 'amount',
		unit: 'height',
		step: 0.005
	};
	const label = (was: Parameters<typeof changeLabel>[2], next: typeof was) =>
		changeLabel('Directional blur', length as Described, was, next ?? 0);
	it('by what was changed of the curve', () => {
		const swell = swellTo(0.04);
		expect(label(swell, { ...swell, peak: 0.06 })).toBe(
			'Peak of directional blur length 4 % h → 6 % h'
		);
		expect(label(swell, { ...swell, rise: 'ease-out' })).toBe(
			'Rise of directional blur length: ease-out'
		);
		expect(label(swell, { ...swell, full_to: 0.5 })).toBe('Plateau of directional blur length');
		expect(label(swell, 0.1)).toBe('Directional blur length: constant');
		expect(label(0.1, swell)).toBe('Directional blur length: swell');
		expect(label(keyframes, withoutKeyframe(keyframes, 1))).toBe(
			'Delete keyframe of directional blur length'
		);
		expect(label(keyframes, withKeyframe(keyframes, 1, { value: 3 }))).toBe(
			'Keyframe 2 of directional blur length'
		);
	});
});

describe('a point', () => {
	const path: Keyframes = {
		kind: 'keyframes',
		keyframes: [{ at: 0, value: [0.5, 0.5], easing: 'linear' }]
	};
	it('changes the keyframe of the shown frame, or gets one there', () => {
		expect(withValueAt([0.5, 0.5], 0.4, [0.2, 0.3], 0.1)).toEqual([0.2, 0.3]);
		const near = withValueAt(path, 0.08, [0.2, 0.3], 0.1) as Keyframes;
		expect(near.keyframes).toEqual([{ at: 0, value: [0.2, 0.3], easing: 'linear' }]);
		const far = withValueAt(path, -0.4, [0.2, 0.3], 0.1) as Keyframes;
		expect(far.keyframes.map(({ at, value }) => [at, value])).toEqual([
			[-0.4, [0.2, 0.3]],
			[0, [0.5, 0.5]]
		]);
	});
	it('takes the curve of a point, and none of a number', () => {
		expect(canPaste(path, [0.1, 0.1])).toBe(true);
		expect(canPaste(path, 3)).toBe(false);
		expect(canPaste(swellTo(3), [0.1, 0.1])).toBe(false);
		expect(fittedTo(path, [0.1, 0.1])).toBe(path);
	});
});

it('is as fast as its neighbours say, also at the ends', () => {
	const values = [0, 1, 4, 9];
	expect([0, 1, 2, 3].map((n) => speedAt(values, n))).toEqual([1, 2, 4, 5]);
	expect(speedAt([3], 0)).toBe(0);
});
