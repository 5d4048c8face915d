import { describe, expect, it } from 'vitest';
import type { Parameter, FilterKind } from '$lib/api/client';
import {
	leadingParameter,
	mainValue,
	movesOf,
	newFilter,
	patched,
	readdressed,
	withMainValue,
	withMoves,
	type Keyframes,
	type Recipe
} from '$lib/recipe/recipe';
import { inPixels, valueText } from '$lib/recipe/units';

const parameter = (name: string, more: object) => ({
	name,
	label: name,
	control: 'amount',
	unit: 'height',
	default: 0,
	choices: null,
	can_follow: false,
	rest: 0,
	low: 0,
	high: 1,
	step: 0.005,
	usual: null,
	moves: 'hold',
	...more
});
const kind = {
	kind: 'blur',
	title: 'Streak',
	family: 'blur',
	purpose: 'Smears.',
	geometry: false,
	moving: false,
	parameters: [
		parameter('opacity', { default: 1, usual: 1, rest: null }),
		parameter('edge', { control: 'choice', default: 'mirror', choices: ['tile', 'mirror'] }),
		parameter('length', { usual: 0.08, moves: 'swell' }),
		parameter('x', { unit: 'frames', usual: 1, moves: 'travel' })
	]
} as unknown as FilterKind;

describe('envelopes', () => {
	it('keep their main value when they move another way', () => {
		for (const moves of ['hold', 'swell', 'travel', 'keyframes'] as const) {
			const envelope = withMoves(0.3, moves, kind.parameters[2] as Parameter);
			expect(movesOf(envelope)).toBe(moves);
			expect(mainValue(envelope)).toBe(0.3);
			expect(mainValue(withMainValue(envelope, 0.6))).toBeCloseTo(0.6);
		}
	});

	it('scale all their keyframes together', () => {
		const keyframes: Keyframes = {
			kind: 'keyframes',
			keyframes: [
				{ at: -1, value: 1, easing: 'linear' },
				{ at: 0, value: -4, easing: 'linear' }
			]
		};
		expect((withMainValue(keyframes, -8) as Keyframes).keyframes.map(({ value }) => value)).toEqual(
			[2, -8]
		);
	});
});

describe('a new filter', () => {
	const filter = newFilter(kind, ['blur', 'blur-2']);

	it('takes a free id and moves as is usual', () => {
		expect(filter.id).toBe('blur-3');
		expect(filter).toMatchObject({
			opacity: 1,
			edge: 'tile',
			length: { kind: 'swell', peak: 0.08 }
		});
		expect(filter.x).toMatchObject({ kind: 'travel', amount: 1 });
	});

	it('leads with the parameter that moves', () => {
		expect(leadingParameter(filter, kind)?.name).toBe('length');
	});
});

describe('values as text', () => {
	it('carry their unit, in the singular where there is one', () => {
		const [, , length, x] = kind.parameters;
		expect(valueText(length!, { ...(withMoves(0.06, 'swell', length!) as object) } as never)).toBe(
			'6 % h'
		);
		expect(valueText(x!, withMoves(1, 'travel', length!))).toBe('+1 frame');
		expect(valueText(x!, withMoves(-4, 'travel', length!))).toBe('-4 frames');
		expect(inPixels(length!, 0.06, 1280, 720)).toBe('43 px');
		expect(inPixels(x!, 1, 1280, 720)).toBe('1280 px');
	});
});

describe('a fix', () => {
	const filter = (id: string) => ({ id, kind: 'roll', side: 'across', amount: 1 });
	const recipe = (...ids: string[]) =>
		({ name: '', shutter: 0, filters: ids.map(filter) }) as unknown as Recipe;
	const patch = [
		{ op: 'replace', path: '/filters/1/amount', value: 2 },
		{ op: 'replace', path: '/shutter', value: 180 }
	] as never[];

	it('changes the filter that was judged, wherever that is now', () => {
		const now = recipe('new', 'b', 'a');
		const found = patched(now, readdressed(patch, ['a', 'b'], now)!);
		expect(found?.filters.map((each) => each.amount)).toEqual([1, 2, 1]);
		expect(found?.shutter).toBe(180);
		expect(now.shutter).toBe(0);
		const moved = recipe('b', 'a');
		expect(readdressed(patch, ['a', 'b'], moved)?.map(({ path }) => path)).toEqual([
			'/filters/0/amount',
			'/shutter'
		]);
	});

	it('changes nothing where that filter has gone, or what it is about', () => {
		expect(
			patched(recipe('a'), [{ op: 'replace', path: '/filters/3/amount', value: 1 }])
		).toBeNull();
		expect(readdressed(patch, ['a', 'b'], recipe('a', 'c'))).toBeNull();
	});
});
