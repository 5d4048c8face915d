// The paths of a lane's curve: one half on either side of the cut, the area under them, its speed.
import { scaleLinear } from 'd3-scale';
import { area, line } from 'd3-shape';
import type { Curve } from '$lib/bench/preview/messages';
import type { Axis } from '$lib/bench/strip/axis';
import { speeds } from '$lib/recipe/envelopes';
import { clamped } from '$lib/ui/numbers';

export type Bounds = { low: number; high: number };
export type CurvePaths = { line: string; area: string };
type Point = { x: number; value: number };

/** Space above and below a curve. */
export const PAD_PX = 9;

/** The values that a curve covers, its rest included; never an empty range. */
export function boundsOf(curve: Curve | undefined, rest: number): Bounds {
	const shown = curve ? [...curve.line, rest] : [0, 1];
	const [low, high] = [Math.min(...shown), Math.max(...shown)];
	return { low, high: high - low > 1e-9 ? high : low + 1 };
}

/** From values to pixels from the top of a lane. */
export function heightScale({ low, high }: Bounds, height: number) {
	return scaleLinear([low, high], [height - PAD_PX, PAD_PX]);
}

/** The curve's points, with its own times stretched to the window. */
function pointsOf(curve: Curve, axis: Axis, values: number[]): Point[] {
	const [first, last] = [curve.times[0] ?? -1, curve.times.at(-1) ?? 1];
	return curve.times.map((t, n) => ({
		x: axis.x(t < 0 ? (t / -first) * axis.before : (t / last) * axis.after),
		value: values[n] ?? 0
	}));
}

/** The half of a curve on one side of the cut. */
export function halfPaths(
	curve: Curve,
	axis: Axis,
	bounds: Bounds,
	height: number,
	rest: number,
	outgoing: boolean
): CurvePaths {
	const y = heightScale(bounds, height);
	const points = pointsOf(curve, axis, curve.line).filter((_, n) =>
		outgoing ? (curve.times[n] ?? 0) <= 0 : (curve.times[n] ?? 0) >= 0
	);
	const base = y(clamped(rest, bounds.low, bounds.high));
	const x = (point: Point) => point.x;
	const top = (point: Point) => y(point.value);
	return {
		line: line<Point>(x, top).digits(1)(points) ?? '',
		area: area<Point>(x, base, top).digits(1)(points) ?? ''
	};
}

/** The curve's speed on a scale of its own, from still (the middle) to its fastest. */
export function speedPath(curve: Curve, axis: Axis, height: number): string {
	const found = speeds(curve.times, curve.line);
	const most = Math.max(...found.map(Math.abs), 1e-9);
	const y = scaleLinear([-most, most], [height - PAD_PX, PAD_PX]);
	const path = line<Point>(
		(point) => point.x,
		(point) => y(point.value)
	);
	return path.digits(1)(pointsOf(curve, axis, found)) ?? '';
}
