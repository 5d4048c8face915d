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

/** The easing run backward: what rose so falls so, seen in a mirror at the cut. */
export function reversed(easing: Easing): Easing {
	const stepped = typeof easing === 'string' ? STEPS.exec(easing) : null;
	if (stepped) return `steps(${stepped[1]},${stepped[2] === 'start' ? 'end' : 'start'})`;
	const points = pointsOf(easing);
	if (!points || typeof easing !== 'string') return easing;
	const [x1, y1, x2, y2] = points;
	return easingOf([1 - x2, 1 - y2, 1 - x1, 1 - y1]);
}

/** Whether a text is an easing that a recipe can hold. */
export function isEasing(text: string): boolean {
	if (text in NAMED) return true;
	const steps = STEPS.exec(text);
	if (steps) return Number(steps[1]) >= 1;
	const parts = BEZIER.exec(text)?.[1]?.split(',') ?? [];
	if (parts.length !== 4 || parts.some((part) => !/^\s*-?(\d+\.?\d*|\.\d+)\s*$/.test(part)))
		return false;
	// CSS Easing Functions Level 1: the times of the control points lie in 0…1.
	return [parts[0], parts[2]].every((part) => Number(part) >= 0 && Number(part) <= 1);
}
