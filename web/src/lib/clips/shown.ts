// What a placed clip shows of its source: with speed ramps that slip, not quite what was trimmed.
import type { Placed } from '$lib/api/client';

/** Spare frames of the shot ahead of the first frame shown; null without limit. */
export function spareBefore({ spare_before, first_shown, in_frame }: Placed): number | null {
	return spare_before === null ? null : Math.max(0, spare_before + first_shown - in_frame);
}

/** Spare frames of the shot past the last frame shown; null without limit. */
export function spareAfter({ spare_after, end_shown, out_frame }: Placed): number | null {
	return spare_after === null ? null : Math.max(0, spare_after + out_frame - end_shown);
}

/** Frames of the file ahead of the first one shown, whatever they show; null without limit. */
export function roomBefore({ room_before, first_shown, in_frame }: Placed): number | null {
	return room_before === null ? null : Math.max(0, room_before + first_shown - in_frame);
}

/** Frames of the file past the last one shown, whatever they show; null without limit. */
export function roomAfter({ room_after, end_shown, out_frame }: Placed): number | null {
	return room_after === null ? null : Math.max(0, room_after + out_frame - end_shown);
}

/** Names the frames around a cut: it changes where the clips, what is shown of them or their framing change. */
export function framesName(outgoing: Placed, incoming: Placed, ...more: unknown[]): string {
	const sides = [outgoing, incoming].map((each) => [
		each.clip.id,
		each.first_shown,
		each.end_shown,
		each.deinterlaced,
		Object.values(each.framing)
	]);
	return [sides, more].flat(4).join();
}
