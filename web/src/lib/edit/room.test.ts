import { describe, expect, it } from 'vitest';
import type { Edit, Placed } from '$lib/api/client';
import { limitedShift, roomOf } from './room';

function placed(frames: number, spare: number | null) {
	const [in_frame, out_frame] = [10, 10 + frames];
	const shown = { first_shown: in_frame, end_shown: out_frame, edit_frames: frames };
	return { in_frame, out_frame, ...shown, room_before: spare, room_after: spare };
}

const edit = {
	placed: [placed(40, 12), placed(30, 5), placed(50, null)],
	cuts: [
		{ before: 6, after: 7 },
		{ before: 8, after: 9 }
	]
} as unknown as Edit;

describe('the room of a cut', () => {
	it('ends at the windows of its neighbours', () => {
		expect(roomOf(edit, 0)).toMatchObject({ before: 40, after: 22 });
		expect(roomOf(edit, 1)).toMatchObject({ before: 23, after: 50 });
	});

	it('ends where a clip has no more frames', () => {
		expect(roomOf(edit, 0)).toMatchObject({ earliest: -5, latest: 12 });
	});

	it('ends where a slipping ramp has used what was spare', () => {
		const [first, second, third] = edit.placed as [Placed, Placed, Placed];
		const slipped = { ...first, end_shown: first.out_frame + 4 };
		const later = { ...edit, placed: [slipped, { ...second, first_shown: 8 }, third] };
		expect(roomOf(later, 0)).toMatchObject({ earliest: -3, latest: 8 });
	});

	it('is not bounded by a still, only by windows', () => {
		expect(roomOf(edit, 1)).toMatchObject({ earliest: -15, latest: 5 });
	});

	it('holds what is dragged', () => {
		const [room, cut] = [roomOf(edit, 0), { before: 6, after: 7 }];
		expect(limitedShift(room, cut, 'before', -99)).toBe(-34);
		expect(limitedShift(room, cut, 'before', 99)).toBe(5);
		expect(limitedShift(room, cut, 'after', 99)).toBe(15);
		expect(limitedShift(room, cut, 'seam', -99)).toBe(-5);
	});
});
