// From frames of an edit to the pictures of a clip: one rule for every still and thumbnail.
import type { Clip } from '$lib/api/client';
import { rateNumber } from '$lib/ui/numbers';

/**
 * The clip's own picture that its frame `frame` at the edit's rate shows: the one at the middle of
 * the frame's time, as renders take it. A still has one picture.
 */
export function pictureOf(clip: Clip, frame: number, editRate: number): number {
	if (clip.still) return 0;
	const own = rateNumber(clip.rate);
	const number = own === editRate ? frame : Math.floor(((frame + 0.5) / editRate) * own);
	return Math.min(Math.max(number, 0), clip.frame_count - 1);
}

/** The address of that picture. `near` allows the keyframe before it: quick, for filmstrips. */
export function pictureAddress(
	clip: Clip,
	frame: number,
	editRate: number,
	height: number,
	near = false
): string {
	const number = pictureOf(clip, frame, editRate);
	return `/api/clips/${clip.id}/pictures/${number}.jpg?height=${height}${near ? '&near=true' : ''}`;
}
