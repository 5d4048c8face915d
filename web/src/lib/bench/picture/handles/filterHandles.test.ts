import { describe, expect, it } from 'vitest';
import type { FilterKind } from '$lib/api/client';
import { filterHandles } from './filterHandles';
import { wipeHandle } from './wipe';
import { within, type PictureHandle } from './handle';
import {
	mainValue,
	swellTo,
	travelBy,
	type Envelope,
	type Mix,
	type Filter
} from '$lib/recipe/recipe';

const WINDOW = { before: 8, after: 8 };
const SIZE = { width: 640, height: 360 };

type Described = Partial<FilterKind['parameters'][number]> & { name: string };

function kindWith(
	kind: string,
	parameters: Described[],
	direction_parameter: string | null = null
): FilterKind {
	return {
		kind,
		title: kind,
		direction_parameter,
		parameters: parameters.map((each) => ({
			label: each.name,
			control: 'amount',
			rest: 0,
			unit: 'height',
			...each
		}))
	} as unknown as FilterKind;
}

function filterOf(kind: string, values: Record<string, Envelope>): Filter {
	return { id: kind, kind, side: 'across', enabled: true, ...values };
}

const KINDS = {
	directional_blur: kindWith(
		'directional_blur',
		[
			{ name: 'length', low: 0, high: 2 },
			{ name: 'angle', control: 'angle', unit: 'deg' }
		],
		'angle'
	),
	radial_blur: kindWith('radial_blur', [
		{ name: 'amount' },
		{ name: 'centre', control: 'point', unit: 'none' }
	]),
	bulge: kindWith('bulge', [
		{ name: 'radius', control: 'radius' },
		{ name: 'centre', control: 'point', unit: 'none' }
	]),
	vignette: kindWith('vignette', [{ name: 'radius', control: 'ellipse' }, { name: 'aspect' }]),
	roll: kindWith('roll', [
		{ name: 'x', unit: 'frames', moves: 'travel', periodic: true, orientation: 'rightward' },
		{ name: 'y', unit: 'frames', moves: 'travel', periodic: true, orientation: 'downward' }
	])
};

function handles(filter: Filter): PictureHandle[] {
	return filterHandles(filter, KINDS[filter.kind as keyof typeof KINDS], SIZE);
}

function handle(filter: Filter, id: string): PictureHandle {
	const found = handles(filter).find((each) => each.id === id);
	if (!found) throw new Error(`no handle ${id}`);
	return found;
}

const blur = filterOf('directional_blur', { length: swellTo(0.5), angle: 30 });
const radial = filterOf('radial_blur', { amount: swellTo(0.4), centre: [0.25, 0.75] });
const bulge = filterOf('bulge', { radius: 0.3, centre: [0.5, 0.4] });
const vignette = filterOf('vignette', { radius: 0.6, aspect: 0.5 });
const rolled = filterOf('roll', { x: travelBy(-1), y: travelBy(2) });

describe('handles on the picture', () => {
	it('set what they show when they are put where they stand', () => {
		for (const filter of [blur, radial, bulge, vignette, rolled]) {
			for (const each of handles(filter)) {
				for (const [name, envelope] of Object.entries(each.moved(each, false))) {
					const [now, was] = [mainValue(envelope), mainValue(filter[name] as Envelope)];
					expect([now].flat(), `${filter.kind} ${name}`).toEqual(
						[was].flat().map((value) => expect.closeTo(value, 2))
					);
				}
			}
		}
	});
	it('point as the direction is seen: counter-clockwise from the right', () => {
		const tip = handle(blur, 'angle');
		expect(tip.x).toBeGreaterThan(SIZE.width / 2);
		expect(tip.y).toBeLessThan(SIZE.height / 2);
		const up = tip.moved({ x: SIZE.width / 2, y: 20 }, false);
		expect(up).toMatchObject({ angle: 90, length: { peak: expect.closeTo(320 / 360, 2) } });
	});
	it('round an angle to 15° with Shift', () => {
		expect(handle(blur, 'angle').moved({ x: 600, y: 120 }, true)).toMatchObject({ angle: 15 });
	});
	it('keep the length of a blur that is pulled close to its middle', () => {
		expect(handle(blur, 'angle').moved({ x: 330, y: 180 }, false)).toEqual({ angle: 0 });
	});
	it('give no arrow to a direction that moves or follows', () => {
		const following: Envelope = { kind: 'follow', filter: 'roll', shutter: 180 };
		expect(handles({ ...blur, angle: following })).toEqual([]);
		expect(handles({ ...blur, angle: swellTo(90) })).toEqual([]);
	});
	it('roll by whole frames, and freely with Shift', () => {
		const down = handle(rolled, 'roll-y');
		expect(down.notches).toHaveLength(2);
		const place = { x: down.x, y: down.y + 0.7 * 0.22 * SIZE.height };
		expect(down.moved(place, false)).toMatchObject({ y: { kind: 'travel', amount: 3 } });
		expect(down.moved(place, true)).toMatchObject({ y: { amount: expect.closeTo(2.7, 2) } });
	});
	it('let a roll at rest travel', () => {
		const resting = filterOf('roll', { x: 0, y: 0 });
		expect(handle(resting, 'roll-x').keyed(1, 0)).toEqual({ x: travelBy(1) });
	});
	it('show the path of a point and set it in the shown frame', () => {
		const path: [number, number][] = [
			[0.2, 0.5],
			[0.4, 0.5]
		];
		const set: [number, number][] = [];
		const moving = { path, at: path[1]!, with: (to: [number, number]) => (set.push(to), to) };
		const centre = filterHandles(radial, KINDS.radial_blur, SIZE, moving).find(
			({ id }) => id === 'centre'
		)!;
		expect(centre.x).toBeCloseTo(0.4 * SIZE.width);
		expect(centre.path?.map(({ x }) => x / SIZE.width)).toEqual([0.2, 0.4]);
		centre.moved({ x: 0.6 * SIZE.width, y: 0.25 * SIZE.height }, false);
		expect(set).toEqual([[0.6, 0.25]]);
	});
	it('move by arrow keys', () => {
		expect(handle(radial, 'centre').keyed(1, -1)).toEqual({ centre: [0.26, 0.74] });
		expect(handle(blur, 'angle').keyed(-5, 0)).toEqual({ angle: 35 });
		expect(handle(bulge, 'radius').keyed(1, 0)).toEqual({ radius: 0.31 });
		expect(handle({ ...bulge, radius: 0 }, 'radius').keyed(-1, 0)).toEqual({ radius: 0 });
	});
	it('draw a vignette as a circle or in the shape of the frame', () => {
		const round = handle({ ...vignette, aspect: 1 }, 'ellipse').ring;
		const shaped = handle({ ...vignette, aspect: 0 }, 'ellipse').ring;
		expect(round?.rx).toBeCloseTo(round?.ry ?? NaN);
		expect((shaped?.rx ?? NaN) / (shaped?.ry ?? NaN)).toBeCloseTo(640 / 360);
	});
	it('keep a vignette inside the frame', () => {
		expect(handle(vignette, 'ellipse').moved({ x: 0, y: -5000 }, false)).toEqual({ radius: 1 });
	});
});

describe('the line of a wipe', () => {
	const wipe: Mix = {
		kind: 'wipe',
		span: [-0.5, 0.5],
		invert: false,
		matte: { type: 'barWipe', subtype: 'leftToRight' }
	};
	it('is where the picture changes', () => {
		expect(wipeHandle(wipe, 0.25, SIZE, WINDOW)).toMatchObject({ shape: 'bar', x: 160 });
		expect(wipeHandle({ ...wipe, invert: true }, 0.25, SIZE, WINDOW)).toMatchObject({ x: 480 });
	});
	it('shifts the span so that the line comes to the pointer at this frame', () => {
		const changes = wipeHandle(wipe, 0.25, SIZE, WINDOW)?.moved({ x: 320, y: 0 }, false);
		// A quarter of the way further at the same time: the span begins a quarter of itself earlier.
		expect(changes).toEqual({ span: [-0.75, 0.25] });
	});
	it('keeps the span inside the window', () => {
		const changes = wipeHandle(wipe, 0.1, SIZE, WINDOW)?.moved({ x: 640, y: 0 }, false);
		expect(changes).toEqual({ span: [-1, 0] });
	});
	it('is there for straight wipes alone', () => {
		expect(
			wipeHandle({ ...wipe, matte: { type: 'irisWipe', subtype: 'diamond' } }, 0.5, SIZE, WINDOW)
		).toBeUndefined();
		expect(wipeHandle({ kind: 'dissolve', span: [-1, 1] }, 0.5, SIZE, WINDOW)).toBeUndefined();
	});
});

describe('ranges', () => {
	const bulge = kindWith('bulge', [
		{ name: 'radius', control: 'radius', low: 0.01, high: 2 },
		{ name: 'centre', control: 'point', unit: 'none', low: -1, high: 2 }
	]);

	it('end what a handle sets, by pointer and by key', () => {
		const filter = filterOf('bulge', { radius: 0.01, centre: [1.999, 0.5] });
		const [radius, centre] = filterHandles(filter, bulge, SIZE) as [PictureHandle, PictureHandle];
		expect(radius.moved({ x: 1.999 * 640, y: 180 }, false)).toEqual({ radius: 0.01 });
		expect(radius.keyed(-5, 0)).toEqual({ radius: 0.01 });
		expect(centre.moved({ x: 5000, y: -5000 }, false)).toEqual({ centre: [2, -1] });
		expect(centre.keyed(3, 0)).toEqual({ centre: [2, 0.5] });
	});

	it('hold for what animates as well', () => {
		const range = { low: -1, high: 2 };
		expect(within(swellTo(3), range)).toEqual(swellTo(2));
		const keyframes = [
			{ at: -1, value: 4, easing: 'linear' as const },
			{ at: 1, value: 0, easing: 'linear' as const }
		];
		expect(within({ kind: 'keyframes', keyframes }, range)).toMatchObject({
			keyframes: [{ value: 2 }, { value: 0 }]
		});
	});
});
