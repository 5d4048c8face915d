// The messages of the live preview; see api/preview/protocol.py.
import type { Framing } from '$lib/api/client';
import type { PatchStep, Recipe } from '$lib/recipe/recipe';

export type Curve = {
	filter_id: string;
	parameter: string;
	values: number[];
	times: number[];
	line: number[];
};
export type Fix = {
	label: string;
	patch: PatchStep[];
	move_cut?: number;
	window?: { before: number; after: number };
};
export type Finding = {
	id: string;
	status: 'ok' | 'warning' | 'failed';
	value: number;
	unit: string;
	frame: number | null;
	message: string;
	fix: Fix | null;
	more_fixes: Fix[];
	/** The editor's reason why it is meant to be so: it counts as ok. */
	accepted: string | null;
	/** A further measure in words, a part of the message. */
	detail?: string | null;
};
/** A finding, and the filters of the recipe in which it was found: its fixes count them. */
export type Found = Finding & { filters: string[] };
export type Shortage = { side: 'outgoing' | 'incoming'; missing: number; message: string };
/** A sharp picture is as large as it is seen; the others are quick. */
export type PictureKind = 'frame' | 'thumb' | 'source' | 'sharp' | 'sharp_source';

/** Where the picture is seen: its pixels, and whether it fills the screen and plays there. */
/** In which size the picture is seen, and for how many sharp ones the page has room. */
export type Seen = { area: [number, number] | null; sharp_frames: number };
export type PictureHead = { id: number; kind: PictureKind; offset: number };

/** A state of the bench to show. */
export type ShownState = {
	before: number;
	after: number;
	recipe: Recipe;
	run_up: number;
	framing: { outgoing: Framing; incoming: Framing };
	/** The mattes of the subjects of outgoing and incoming; null where none is marked. */
	subjects: [string | null, string | null];
};

export type Facts =
	| { id: number; kind: 'changes'; changes: number[] }
	| { id: number; kind: 'checks'; checks: Finding[]; pending: string[] }
	| {
			id: number;
			kind: 'curves';
			curves: Curve[];
			shortages: Shortage[];
			spare_frames_used: Record<'outgoing' | 'incoming', number>;
			span_that_fits: [number, number] | null;
	  };
export type ProblemMessage = { id: number | null; kind: 'problem'; problems: unknown[] };

/** The head and the JPEG of a binary message: 4 bytes of length, the head as JSON, the picture. */
export function parsePicture(data: ArrayBuffer): { head: PictureHead; jpeg: Blob } {
	const length = new DataView(data).getUint32(0);
	const head = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length))) as PictureHead;
	return { head, jpeg: new Blob([new Uint8Array(data, 4 + length)], { type: 'image/jpeg' }) };
}
