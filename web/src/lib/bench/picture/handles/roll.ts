// The arrow of a roll, with a notch at every whole frame.
import type { FilterKind, Parameter } from '$lib/api/client';
import { withValue, type Envelope, type Filter } from '$lib/recipe/recipe';
import { clamped } from '$lib/ui/numbers';
import { numberOf, round, type Changes, type PictureHandle, type Size } from './handle';

const FRAME_A_NOTCH = 0.22;

/** An arrow with a notch at every whole frame by which the picture rolls. */
export function roll(
	filter: Filter,
	kind: FilterKind,
	parameter: Parameter,
	size: Size
): PictureHandle {
	const { name } = parameter;
	const rolled = (value: number): Changes => ({
		[name]: withValue(filter[name] as Envelope, value, parameter)
	});
	const frames = numberOf(filter, name);
	const across = parameter.orientation === 'rightward';
	const notch = FRAME_A_NOTCH * (across ? size.width : size.height);
	// The two arrows begin beside the middle, so that neither hides the other at rest.
	const start = {
		x: size.width / 2 + (across ? 0.04 * size.height : 0),
		y: size.height / 2 + (across ? 0 : 0.04 * size.height)
	};
	const room = (across ? size.width : size.height) * 0.44;
	const at = (count: number) => {
		const far = clamped(count * notch, -room, room);
		return across ? { x: start.x + far, y: start.y } : { x: start.x, y: start.y + far };
	};
	const whole = Math.min(Math.floor(room / notch), Math.abs(Math.trunc(frames)));
	return {
		id: `roll-${across ? 'x' : 'y'}`,
		shape: 'tip',
		label: `${kind.title} handle: ${parameter.label.toLowerCase()}, ${frames} frames`,
		...at(frames),
		from: start,
		notches: Array.from({ length: whole }, (_, n) => at((n + 1) * Math.sign(frames))),
		moved: (to, snap) => {
			const far = (across ? to.x - start.x : to.y - start.y) / notch;
			return rolled(snap ? round(far, 2) : Math.round(far));
		},
		keyed: (right, down) => rolled(round(frames + (across ? right : down), 2))
	};
}
