// What a change makes of an edit, before the server has answered: pure functions.
import type { CutSummary, Edit, Placed } from '$lib/api/client';

export type EditChange = {
	name?: string;
	beats_per_minute?: number;
	beat_offset_s?: number;
	beat_times_s?: number[];
};
export type PlacedChange = {
	in_frame?: number;
	out_frame?: number;
	position?: number;
	muted?: boolean;
	gain_db?: number;
	crossfade?: number;
	deinterlaced?: boolean;
};

export function withFacts(edit: Edit, change: EditChange): Edit {
	const { beats_per_minute = edit.beats_per_minute, ...rest } = change;
	const isTempo = 'beats_per_minute' in change || 'beat_offset_s' in change;
	const beat_times_s = change.beat_times_s ?? (isTempo ? null : edit.beat_times_s);
	return { ...edit, ...rest, beats_per_minute: beats_per_minute || null, beat_times_s };
}

/** The edit with a clip trimmed, muted or at another place. */
export function withPlaced(edit: Edit, id: string, change: PlacedChange): Edit {
	const placed = edit.placed.map((each) => (each.id === id ? trimmed(each, change) : each));
	if (change.position !== undefined) {
		const from = placed.findIndex((each) => each.id === id);
		const [moved] = placed.splice(from, 1);
		if (moved) placed.splice(change.position, 0, moved);
	}
	return whole(edit, placed);
}

function trimmed(placed: Placed, change: PlacedChange): Placed {
	const { in_frame = placed.in_frame, out_frame = placed.out_frame } = change;
	const { muted = placed.muted, gain_db = placed.gain_db, crossfade = placed.crossfade } = change;
	const { deinterlaced = placed.deinterlaced } = change;
	const { spare_before, spare_after, room_before, room_after } = placed;
	const [later, longer] = [in_frame - placed.in_frame, out_frame - placed.out_frame];
	return {
		...placed,
		in_frame,
		out_frame,
		first_shown: placed.first_shown + later,
		end_shown: placed.end_shown + longer,
		edit_frames: placed.edit_frames + longer - later,
		muted,
		gain_db,
		crossfade,
		deinterlaced,
		// What is shown beyond the shot belongs to it from then on.
		spare_before: spare_before === null ? null : Math.max(0, spare_before + later),
		spare_after: spare_after === null ? null : Math.max(0, spare_after - longer),
		room_before: room_before === null ? null : room_before + later,
		room_after: room_after === null ? null : room_after - longer
	};
}

/** The edit with a cut later by frames: its two clips are trimmed against each other. */
export function withMovedCut(edit: Edit, cutId: string, by: number): Edit {
	const n = edit.cuts.findIndex((each) => each.id === cutId);
	if (n < 0) return edit;
	const placed = edit.placed.map((each, place) => {
		if (place === n) return trimmed(each, { out_frame: each.out_frame + by });
		return place === n + 1 ? trimmed(each, { in_frame: each.in_frame + by }) : each;
	});
	return whole(edit, placed);
}

export function withWindow(edit: Edit, cutId: string, before: number, after: number): Edit {
	const cuts = edit.cuts.map((cut) => (cut.id === cutId ? { ...cut, before, after } : cut));
	return { ...edit, cuts };
}

function whole(edit: Edit, placed: Placed[]): Edit {
	const frame_count = placed.reduce((sum, each) => sum + each.edit_frames, 0);
	return { ...edit, placed, frame_count };
}

/** What trims of a clip are about. */
export function trimOf(placed: Placed) {
	const { id, in_frame, out_frame, muted, gain_db, crossfade, deinterlaced } = placed;
	return { id, in_frame, out_frame, muted, gain_db, crossfade, deinterlaced };
}

/** What changes of a clip are about; null where it has gone. */
export function placedFacts(edit: Edit, id: string) {
	const placed = edit.placed.find((each) => each.id === id);
	return placed ? trimOf(placed) : null;
}

/** The placed clip that the film shows at a frame, and which frame of the clip that is. */
export function placedAt(edit: Edit, frame: number): { placed: Placed; at: number } | undefined {
	let start = 0;
	for (const placed of edit.placed) {
		const into = frame - start;
		if (into < placed.edit_frames) return { placed, at: placed.in_frame + into };
		start += placed.edit_frames;
	}
}

/** The name of a cut: that of its recipe. */
export function cutName(cut: CutSummary): string {
	return cut.recipe_name === 'Untitled' && !cut.filter_count ? 'Hard cut' : cut.recipe_name;
}
