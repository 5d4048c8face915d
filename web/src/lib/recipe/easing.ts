// Easings as the bench edits them: control points, their mirror image, their text.
import type { Easing } from '$lib/recipe/recipe';

/** x1, y1, x2, y2 of a cubic Bézier curve from (0, 0) to (1, 1). */
export type Points = [number, number, number, number];

// W3C CSS Easing Functions Level 1, section 2.2.
const NAMED: Record<string, Points> = {
	linear: [0, 0, 1, 1],
	ease: [0.25, 0.1, 0.25, 1],
	'ease-in': [0.42, 0, 1, 1],
	'ease-out': [0, 0, 0.58, 1],
	'ease-in-out': [0.42, 0, 0.58, 1]
};
const BEZIER = /^cubic-bezier\(([^)]*)\)$/;
const STOPS = /^linear\((.*)\)$/s;
const NUMBER = /^[+-]?(\d+\.?\d*|\.\d+)$/;
const STEPS = /^steps\((\d+),\s*(start|end)\)$/;

/** The control points of an easing; null for steps. */
export function pointsOf(easing: Easing): Points | null {
	if (typeof easing !== 'string') return [easing.steepness, 0, 1 - easing.steepness, 1];
	const named = NAMED[easing];
	if (named) return named;
	const numbers = BEZIER.exec(easing)?.[1]?.split(',').map(Number);
	return numbers?.length === 4 ? (numbers as Points) : null;
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
		const shares = words.filter((word) => word.endsWith('%')).map((word) => word.slice(0, -1));
		const numbers = words.filter((word) => !word.endsWith('%'));
		const [y] = numbers;
		const apart = words.length === 3 && !words[1]?.endsWith('%');
		if (y === undefined || numbers.length > 1 || shares.length > 2 || apart) return null;
		if (![y, ...shares].every((each) => NUMBER.test(each))) return null;
		if (!shares.length) stops.push({ x: null, y: Number(y) });
		for (const share of shares) stops.push({ x: Number(share) / 100, y: Number(y) });
	}
	return stops.length >= 2 ? placed(stops) : null;
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

/** Whether a text is an easing that a recipe can hold. */
export function isEasing(text: string): boolean {
	if (text in NAMED || stopsOf(text)) return true;
	const steps = STEPS.exec(text);
	if (steps) return Number(steps[1]) >= 1;
	const parts = BEZIER.exec(text)?.[1]?.split(',') ?? [];
	if (parts.length !== 4 || parts.some((part) => !/^\s*-?(\d+\.?\d*|\.\d+)\s*$/.test(part)))
		return false;
	// CSS Easing Functions Level 1: the times of the control points lie in 0…1.
	return [parts[0], parts[2]].every((part) => Number(part) >= 0 && Number(part) <= 1);
}
