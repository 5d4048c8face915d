// The edge of a straight wipe.
import type { Mix } from '$lib/recipe/recipe';
import { isInFrames, timeAt, uAt, type Time, type Window } from '$lib/recipe/times';
import { clamped } from '$lib/ui/numbers';
import { KEY_SHARE, round, type Changes, type PictureHandle, type Size } from './handle';

/** The edge of a straight wipe at the shown frame, at `progress` 0…1; dragging shifts its span. */
export function wipeHandle(
	mix: Mix,
	progress: number,
	size: Size,
	window: Window
): PictureHandle | undefined {
	const matte = mix.matte as { type?: string; subtype?: string } | undefined;
	if (mix.kind !== 'wipe' || matte?.type !== 'barWipe' || !mix.span) return undefined;
	const across = matte.subtype === 'leftToRight';
	const length = across ? size.width : size.height;
	const share = mix.invert ? 1 - progress : progress;
	const far = share * length;
	const shifted = (to: number): Changes => {
		const wanted = mix.invert ? 1 - to / length : to / length;
		const stated = mix.span ?? ([-1, 1] as [Time, Time]);
		const [start = -1, end = 1] = stated.map((time) => uAt(time, window));
		const by = clamped((progress - wanted) * (end - start), -1 - start, 1 - end);
		const span = [start, end].map((u, n) =>
			timeAt(round(u + by), window, isInFrames(stated[n as 0 | 1]))
		);
		return { span: span as [number, number] };
	};
	return {
		id: 'wipe',
		shape: 'bar',
		label: `Wipe handle: ${Math.round(progress * 100)} % done at this frame`,
		...(across ? { x: far, y: size.height / 2 } : { x: size.width / 2, y: far }),
		from: across ? { x: far, y: 0 } : { x: 0, y: far },
		moved: (to) => shifted(across ? to.x : to.y),
		keyed: (right, down) => shifted(far + (right + down) * KEY_SHARE * length)
	};
}
