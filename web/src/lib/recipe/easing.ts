// Easings as the bench edits them: control points, their mirror image, their text.
import usual from '$lib/api/generated/usual.json';
import type { Easing } from '$lib/recipe/recipe';

/** x1, y1, x2, y2 of a cubic Bézier curve from (0, 0) to (1, 1). */
export type Points = [number, number, number, number];

const NAMED = usual.easings as unknown as Record<string, Points>;
const BEZIER = /^cubic-bezier\(([^)]*)\)$/;
const STOPS = /^linear\((.*)\)$/s;
const STEPS = /^steps\(\s*(\d+)\s*(?:,\s*(?:jump-)?(start|end)\s*)?\)$/;

/** The control points of an easing; null for steps. */
export function pointsOf(easing: Easing): Points | null {
	if (typeof easing !== 'string') return [easing.steepness, 0, 1 - easing.steepness, 1];
	const named = NAMED[easing];
	if (named) return named;
	const numbers = BEZIER.exec(easing)?.[1]?.split(',').map(Number);
	return numbers?.length === 4 && numbers.every(Number.isFinite) ? (numbers as Points) : null;
}

/** The easing with these control points, by its name where it has one. */
export function easingOf(points: Points): Easing {
	const [x1, y1, x2, y2] = points.map((each) => Number(each.toFixed(3))) as Points;
	const named = Object.entries(NAMED).find(
		([, each]) => each.join() === [x1, y1, x2, y2].join()
	)?.[0];
	return named ?? `cubic-bezier(${x1},${y1},${x2},${y2})`;
}

/** The points of `linear()` with stops (CSS Easing Functions Level 2); null for other easings. */
export function stopsOf(easing: Easing): [number, number][] | null {
	const listed = typeof easing === 'string' ? STOPS.exec(easing.trim())?.[1] : undefined;
	if (listed === undefined) return null;
	const stops: { x: number | null; y: number }[] = [];
	for (const part of listed.split(',')) {
		const words = part.trim().split(/\s+/);
		const shares = words.filter((word) => word.endsWith('%')).map((word) => parseFloat(word) / 100);
		const y = Number(words.find((word) => !word.endsWith('%')));
		for (const x of shares.length ? shares : [null]) stops.push({ x, y });
	}
	const isRead = stops.every(({ x, y }) => !Number.isNaN(x ?? 0) && !Number.isNaN(y));
	return isRead && stops.length >= 2 ? placed(stops) : null;
}

/** Inputs never decrease, and those left out lie evenly between the others. */
function placed(stops: { x: number | null; y: number }[]): [number, number][] {
	const last = stops.length - 1;
	let most = -Infinity;
	const known = stops.map(({ x }, n) => x ?? (n === 0 ? 0 : n === last ? 1 : null));
	const inputs = known.map((x) => (x === null ? null : (most = Math.max(most, x))));
	return stops.map(({ y }, n) => {
		const own = inputs[n];
		if (own != null) return [own, y];
		const before = inputs.findLastIndex((x, k) => k < n && x !== null);
		const after = inputs.findIndex((x, k) => k > n && x !== null);
		const [from, to] = [inputs[before] ?? 0, inputs[after] ?? 1];
		return [from + ((to - from) * (n - before)) / (after - before), y];
	});
}

/** Points along an easing, for a small picture of it. */
export function outline(easing: Easing): [number, number][] {
	const stops = stopsOf(easing);
	if (stops) return stops;
	const points = pointsOf(easing);
	if (points) return Array.from({ length: 25 }, (_, n) => along(points, n / 24));
	const count = Math.min(
		Number(STEPS.exec(typeof easing === 'string' ? easing : '')?.[1] ?? 3),
		24
	);
	return Array.from({ length: count }, (_, n): [number, number][] => [
		[n / count, n / count],
		[(n + 1) / count, n / count]
	])
		.flat()
		.concat([[1, 1]]);
}

function along([x1, y1, x2, y2]: Points, s: number): [number, number] {
	const at = (one: number, other: number) =>
		3 * (1 - s) ** 2 * s * one + 3 * (1 - s) * s ** 2 * other + s ** 3;
	return [at(x1, x2), at(y1, y2)];
}

/** The easing run backward: what rose so falls so, seen in a mirror at the cut. */
export function reversed(easing: Easing): Easing {
	const stepped = typeof easing === 'string' ? STEPS.exec(easing) : null;
	if (stepped) return `steps(${stepped[1]},${stepped[2] === 'start' ? 'end' : 'start'})`;
	const stops = stopsOf(easing);
	if (stops) {
		const share = (value: number) => Number(value.toFixed(4));
		const back = stops.map(([x, y]) => `${share(1 - y)} ${share(100 - 100 * x)}%`).reverse();
		return `linear(${back.join(', ')})`;
	}
	const points = pointsOf(easing);
	if (!points || typeof easing !== 'string') return easing;
	const [x1, y1, x2, y2] = points;
	return easingOf([1 - x2, 1 - y2, 1 - x1, 1 - y1]);
}

/** Whether a text is an easing that a recipe can hold: one of CSS, of a kind that is drawn here. */
export function isEasing(text: string): boolean {
	const isDrawn = pointsOf(text) ?? stopsOf(text) ?? STEPS.exec(text);
	return isDrawn !== null && CSS.supports('transition-timing-function', text);
}
