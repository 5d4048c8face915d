// The box of a clip's framing: the handles of a placed picture, but for stretching, which framing has not.
import type { Framing } from '$lib/api/client';
import { clamped } from '$lib/ui/numbers';
import { boxHandles } from './box';
import { round, type Changes, type PictureHandle, type Size } from './handle';

/** The handles for the framing of the clip that is called `name`. */
export function framingHandles(framing: Framing, name: string, size: Size): PictureHandle[] {
	const { scale = 1, x = 0, y = 0, turn = 0 } = framing;
	const placement = {
		scale,
		stretch_x: 1,
		stretch_y: 1,
		shift_x: x,
		shift_y: y,
		turns: turn / 360,
		centre: [0.5, 0.5] as const
	};
	return boxHandles(placement, name, size).filter(({ shape }) => shape !== 'edge');
}

/** The framing with what a handle of its box set, inside its ranges. */
export function framed(framing: Framing, changes: Changes): Framing {
	const made = { ...framing };
	for (const [name, value] of Object.entries(changes)) {
		if (typeof value !== 'number') continue;
		if (name === 'scale') made.scale = clamped(value, 0.1, 10);
		if (name === 'shift_x') made.x = clamped(value, -2, 2);
		if (name === 'shift_y') made.y = clamped(value, -2, 2);
		if (name === 'turns') made.turn = round(clamped(value * 360, -360, 360), 2);
	}
	return made;
}
