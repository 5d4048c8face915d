import { expect, it } from 'vitest';
import { framed, framingHandles } from './framingBox';

const SIZE = { width: 640, height: 360 };
const PLAIN = { scale: 1, x: 0, y: 0, turn: 0, gain: [1, 1, 1], offset: [0, 0, 0] };

function handle(id: string, framing = PLAIN) {
	const found = framingHandles(framing, 'Quay', SIZE).find((each) => each.id === id);
	if (!found) throw new Error(id);
	return found;
}

it('moves, scales and turns the clip as far as its box is dragged', () => {
	const middle = handle('box-position');
	expect(framed(PLAIN, middle.moved({ x: 320 + 64, y: 180 - 36 }, false))).toMatchObject({
		x: 0.1,
		y: -0.1
	});
	const corner = handle('box-bottom-right');
	expect(framed(PLAIN, corner.moved({ x: 480, y: 270 }, false)).scale).toBeCloseTo(0.5);
	const tip = handle('box-turn');
	// Counter-clockwise: from above the middle to its left.
	const left = { x: 320 - (180 - tip.y), y: 180 };
	expect(framed(PLAIN, tip.moved(left, false)).turn).toBeCloseTo(90);
});

it('goes on from the framing that is there', () => {
	const moved = { ...PLAIN, scale: 2, x: 0.25, turn: 90 };
	const middle = handle('box-position', moved);
	expect(framed(moved, middle.moved({ x: middle.x + 64, y: middle.y }, false))).toMatchObject({
		scale: 2,
		x: 0.35,
		turn: 90
	});
});

it('has no handles that stretch, and keeps to the ranges of framing', () => {
	expect(framingHandles(PLAIN, 'Quay', SIZE).some(({ shape }) => shape === 'edge')).toBe(false);
	expect(framed(PLAIN, { scale: 40, shift_x: 3, shift_y: -3, turns: 2 })).toMatchObject({
		scale: 10,
		x: 2,
		y: -2,
		turn: 360
	});
});
