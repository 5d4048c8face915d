// How far the window and the place of a cut can go before they meet a neighbour or a clip's end.
import type { Edit, Placed } from '$lib/api/client';
import { roomAfter, roomBefore } from '$lib/clips/shown';

export type Room = {
	/** The most frames of the window on either side. */
	before: number;
	after: number;
	/** How far the cut can move: frames earlier (0 or less) and later. */
	earliest: number;
	latest: number;
};

function frames(placed: Placed): number {
	return placed.edit_frames;
}

/** The room of cut `n` of an edit. A still, which has no end, leaves spare frames without limit. */
export function roomOf(edit: Edit, n: number): Room {
	const [outgoing, incoming, cut] = [edit.placed[n], edit.placed[n + 1], edit.cuts[n]];
	if (!outgoing || !incoming || !cut) return { before: 1, after: 1, earliest: 0, latest: 0 };
	const before = frames(outgoing) - (edit.cuts[n - 1]?.after ?? 0);
	const after = frames(incoming) - (edit.cuts[n + 1]?.before ?? 0);
	return {
		before,
		after,
		earliest: -Math.min(roomBefore(incoming) ?? Infinity, before - cut.before),
		latest: Math.min(roomAfter(outgoing) ?? Infinity, after - cut.after)
	};
}

/** What can be dragged of a cut: an end of its window, or the cut itself. */
export type Shifted = 'before' | 'seam' | 'after';

/** `by` frames to the right, kept inside the room that there is. */
export function limitedShift(
	room: Room,
	cut: { before: number; after: number },
	what: Shifted,
	by: number
): number {
	if (what === 'before') return cut.before - Math.min(Math.max(1, cut.before - by), room.before);
	if (what === 'after') return Math.min(Math.max(1, cut.after + by), room.after) - cut.after;
	return Math.min(Math.max(room.earliest, by), room.latest);
}
