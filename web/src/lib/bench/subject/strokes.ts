// The strokes on the frames of a clip: pure changes of the list.
import type { Strokes } from '$lib/api/client';

export type Tool = 'keep' | 'remove' | 'box';
export type Point = [number, number];
/** How thick a stroke is that says nothing of it, of the frame's height. */
export const USUAL_SIZE = 0.02;
const PLACES = 4;

/** What is drawn on a frame; nothing where nothing is. */
export function strokesOn(list: Strokes[], frame: number): Strokes {
	const found = list.find((each) => each.frame === frame);
	return found ?? { frame, box: null, keep: [], remove: [], keep_sizes: [], remove_sizes: [] };
}

/** The list with a line more on a frame. */
export function withLine(
	list: Strokes[],
	frame: number,
	tool: 'keep' | 'remove',
	line: Point[],
	size: number
): Strokes[] {
	const on = strokesOn(list, frame);
	const sizes = `${tool}_sizes` as const;
	const lines = on[tool] ?? [];
	// Lines without a size ahead of it get theirs.
	const before = lines.map((_, n) => on[sizes]?.[n] ?? USUAL_SIZE);
	return withFrame(list, {
		...on,
		[tool]: [...lines, line.map(rounded)],
		[sizes]: [...before, size]
	});
}

/** The list with a box between two corners on a frame; null removes it. */
export function withBox(list: Strokes[], frame: number, corners: [Point, Point] | null): Strokes[] {
	const on = strokesOn(list, frame);
	if (!corners) return withFrame(list, { ...on, box: null });
	const [one, other] = corners;
	const [left, top] = [Math.min(one[0], other[0]), Math.min(one[1], other[1])];
	const size: Point = [Math.abs(one[0] - other[0]), Math.abs(one[1] - other[1])];
	if (Math.min(...size) < 0.005) return list;
	const box = [...rounded([left, top]), ...rounded(size)] as [number, number, number, number];
	return withFrame(list, { ...on, box });
}

/** The list without what is drawn on a frame. */
export function withoutFrame(list: Strokes[], frame: number): Strokes[] {
	return list.filter((each) => each.frame !== frame);
}

/** Whether the server can make a matte of it: something says what the subject is. */
export function saysSomething(list: Strokes[]): boolean {
	return list.some((each) => each.box || each.keep?.length);
}

function withFrame(list: Strokes[], on: Strokes): Strokes[] {
	const empty = !on.box && !on.keep?.length && !on.remove?.length;
	const others = withoutFrame(list, on.frame);
	return (empty ? others : [...others, on]).sort((one, other) => one.frame - other.frame);
}

function rounded([x, y]: Point): Point {
	return [Number(x.toFixed(PLACES)), Number(y.toFixed(PLACES))];
}
