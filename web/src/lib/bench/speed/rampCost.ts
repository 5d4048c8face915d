// What a speed ramp costs, in words: the frames at the clip's far end, or the length of the edit.
import type { Placed } from '$lib/api/client';
import type { ClipSide } from '$lib/bench/cutTypes';
import { counted } from '$lib/ui/numbers';

/** `extra` are the source frames used beyond the window's own: fewer than 0 are saved. */
export function rampCost(
	side: ClipSide,
	inEdit: string,
	extra: number,
	placed: Pick<Placed, 'spare_before' | 'spare_after'>
): string {
	if (!extra) return 'Uses no spare frames';
	const frames = counted(Math.abs(extra), 'frame');
	if (inEdit === 'ripple') return `Makes the edit ${frames} ${extra > 0 ? 'shorter' : 'longer'}`;
	const outgoing = side === 'outgoing';
	const end = outgoing ? 'before the in point' : 'after the out point';
	if (extra < 0) return `Leaves ${frames} more ${end}`;
	const spare = outgoing ? placed.spare_before : placed.spare_after;
	return spare === null
		? `Uses ${frames} ${end}`
		: `Uses ${extra} of ${counted(spare, 'frame')} ${end}`;
}
