import { expect, it } from 'vitest';
import { boxHandles, placedSpot, type Placement } from './box';

const SIZE = { width: 640, height: 360 };
const REST: Placement = {
	scale: 1,
	stretch_x: 1,
	stretch_y: 1,
	shift_x: 0,
	shift_y: 0,
	turns: 0,
	centre: [0.5, 0.5]
};

function handle(at: Partial<Placement>, id: string) {
	const found = boxHandles({ ...REST, ...at }, 'Transform', SIZE).find((each) => each.id === id);
	if (!found) throw new Error(id);
	return found;
}

it('places the picture as the filter does: scaled and turned about its centre, then shifted', () => {
	// Worked out by hand: half a picture to the right of the middle, doubled, is a whole one.
	expect(placedSpot({ ...REST, scale: 2 }, SIZE, 1, 0.5)).toEqual({ x: 960, y: 180 });
	const turned = placedSpot({ ...REST, turns: 0.25, shift_x: 0.1 }, SIZE, 1, 0.5);
	expect([turned.x, turned.y].map(Math.round)).toEqual([384, -140]);
	expect(placedSpot({ ...REST, centre: [0, 1], scale: 2 }, SIZE, 0, 1)).toEqual({ x: 0, y: 360 });
});

it('scales by a corner, as far as the pointer is from the centre', () => {
	const corner = handle({ scale: 0.5 }, 'box-bottom-right');
	expect([corner.x, corner.y]).toEqual([480, 270]);
	expect(corner.moved({ x: 640, y: 360 }, false)).toEqual({ scale: 1 });
	expect(corner.moved({ x: 560, y: 315 }, true)).toEqual({ scale: 0.75 });
	// A corner outside the frame is held at its border, and counts from there.
	expect(handle({ scale: 3 }, 'box-bottom-right').moved({ x: 480, y: 270 }, false)).toEqual({
		scale: 1.5
	});
});

it('stretches by an edge along the picture, also a turned one', () => {
	expect(handle({}, 'box-right').moved({ x: 480, y: 20 }, false)).toEqual({ stretch_x: 0.5 });
	// Turned by a quarter counter-clockwise the right edge is on top.
	const edge = handle({ turns: 0.25, scale: 0.5 }, 'box-right');
	expect([edge.x, edge.y].map(Math.round)).toEqual([320, 20]);
	expect(edge.moved({ x: 320, y: 100 }, false)).toEqual({ stretch_x: 0.5 });
});

it('turns by its tip, counter-clockwise, and moves by its inside', () => {
	const tip = handle({ scale: 0.5 }, 'box-turn');
	expect(tip.moved({ x: 320 - (180 - tip.y), y: 180 }, false)).toEqual({ turns: 0.25 });
	expect(tip.moved({ x: 320 + 10, y: tip.y }, true)).toEqual({ turns: 0 });
	expect(
		handle({ shift_x: 0.1 }, 'box-position').moved({ x: 384 + 64, y: 180 - 36 }, false)
	).toEqual({ shift_x: 0.2, shift_y: -0.1 });
});
