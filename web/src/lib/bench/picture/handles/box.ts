// The box of a placed picture at the shown frame: corners scale, edges stretch, a tip above turns, the
// inside moves.
import { clamped } from '$lib/ui/numbers';
import { KEY_SHARE, round, type Changes, type PictureHandle, type Size, type Spot } from './handle';

/** Where a picture is placed: scales, shifts in frame widths and heights, turns counter-clockwise. */
export type Placement = {
	scale: number;
	stretch_x: number;
	stretch_y: number;
	shift_x: number;
	shift_y: number;
	turns: number;
	centre: readonly [number, number];
};

const TIP_PX = 26;
/** A handle is no nearer to the centre than this, so that a small movement is a small change. */
const LEAST_PX = 12;
const SNAP = { scale: 0.05, degrees: 15, shift: 0.05 };
const CORNERS = [
	['top left', 0, 0],
	['top right', 1, 0],
	['bottom right', 1, 1],
	['bottom left', 0, 1]
] as const;
const EDGES = [
	['right', 1, 0.5],
	['bottom', 0.5, 1],
	['left', 0, 0.5],
	['top', 0.5, 0]
] as const;

/** Where a place of the picture, 0…1, comes to lie. */
export function placedSpot(at: Placement, size: Size, x: number, y: number): Spot {
	const [cx, cy] = [at.centre[0] * size.width, at.centre[1] * size.height];
	const right = (x * size.width - cx) * at.scale * at.stretch_x;
	const down = (y * size.height - cy) * at.scale * at.stretch_y;
	const angle = at.turns * 2 * Math.PI;
	const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
	return {
		x: cx + right * cos + down * sin + at.shift_x * size.width,
		y: cy - right * sin + down * cos + at.shift_y * size.height
	};
}

/** The handles of the box; what they set is for the shown frame alone. */
export function boxHandles(
	at: Placement,
	title: string,
	size: Size,
	path: Spot[] = []
): PictureHandle[] {
	const centre = placedSpot(at, size, ...at.centre);
	const inside = placedSpot(at, size, 0.5, 0.5);
	const corners = CORNERS.map(([, x, y]) => placedSpot(at, size, x, y));
	const shownAt = (spot: Spot): Spot => ({
		x: clamped(spot.x, 0, size.width),
		y: clamped(spot.y, 0, size.height)
	});
	const common = { relative: true, onFrame: true } as const;
	const percent = (value: number) => `${round(value * 100, 1)} %`;

	const scaling = CORNERS.map(([name, x, y]): PictureHandle => {
		const spot = shownAt(placedSpot(at, size, x, y));
		const set = (factor: number, snap = false): Changes => ({
			scale: snapped(at.scale * Math.max(factor, 0.01), snap, SNAP.scale)
		});
		return {
			...common,
			...spot,
			id: `box-${name.replace(' ', '-')}`,
			shape: 'tip',
			label: `${title} handle: scale ${percent(at.scale)}, ${name} corner`,
			moved: (to, snap) => set(distance(to, centre) / distance(spot, centre), snap),
			keyed: (right, down) => set(1 + (right - down) * KEY_SHARE)
		};
	});
	const stretching = EDGES.map(([name, x, y]): PictureHandle => {
		const spot = shownAt(placedSpot(at, size, x, y));
		const across = y === 0.5;
		const field = across ? 'stretch_x' : 'stretch_y';
		const along = (to: Spot) => alongAxis(to, centre, at, across);
		const set = (factor: number, snap = false): Changes => ({
			[field]: snapped(at[field] * Math.max(factor, 0.01), snap, SNAP.scale)
		});
		return {
			...common,
			...spot,
			id: `box-${name}`,
			shape: 'edge',
			label: `${title} handle: scale ${across ? 'X' : 'Y'} ${percent(at[field])}, ${name} edge`,
			moved: (to, snap) => set(along(to) / away(along(spot)), snap),
			keyed: (right, down) => set(1 + (across ? right : -down) * KEY_SHARE)
		};
	});
	const top = placedSpot(at, size, 0.5, 0);
	const up = direction(inside, top, at);
	// Above the picture; inside it where there is no room above.
	const outside = { x: top.x + up.x * TIP_PX, y: top.y + up.y * TIP_PX };
	const isSeen = same(outside, shownAt(outside));
	const base = isSeen ? top : shownAt(top);
	const reach = isSeen ? TIP_PX : -TIP_PX;
	const tip = shownAt({ x: base.x + up.x * reach, y: base.y + up.y * reach });
	const turned = (degrees: number, snap = false): Changes => ({
		turns: round(snapped(at.turns * 360 + degrees, snap, SNAP.degrees) / 360, 6)
	});
	const moved = (right: number, down: number, snap = false): Changes => ({
		shift_x: snapped(at.shift_x + right / size.width, snap, SNAP.shift),
		shift_y: snapped(at.shift_y + down / size.height, snap, SNAP.shift)
	});
	const place = shownAt(inside);
	return [
		...stretching,
		...scaling,
		{
			...common,
			...tip,
			id: 'box-turn',
			shape: 'point',
			from: base,
			label: `${title} handle: rotation ${round(at.turns * 360, 1)}°`,
			moved: (to, snap) => turned(angleBetween(tip, to, centre), snap),
			keyed: (right, down) => turned(-(right + down))
		},
		{
			...common,
			...place,
			id: 'box-position',
			shape: 'middle',
			outline: corners,
			path: path.length ? path : undefined,
			label: `${title} handle: position X ${percent(at.shift_x)}, Y ${percent(at.shift_y)}`,
			moved: (to, snap) => moved(to.x - place.x, to.y - place.y, snap),
			keyed: (right, down) => moved(right * KEY_SHARE * size.width, down * KEY_SHARE * size.height)
		}
	];
}

function same(one: Spot, other: Spot): boolean {
	return one.x === other.x && one.y === other.y;
}

function snapped(value: number, snap: boolean, step: number): number {
	return round(snap ? Math.round(value / step) * step : value, 4);
}

function distance(one: Spot, other: Spot): number {
	return Math.max(LEAST_PX, Math.hypot(one.x - other.x, one.y - other.y));
}

function away(length: number): number {
	return Math.sign(length || 1) * Math.max(LEAST_PX, Math.abs(length));
}

/** How far a spot is from the centre along the picture's own right or down. */
function alongAxis(to: Spot, centre: Spot, at: Placement, across: boolean): number {
	const angle = at.turns * 2 * Math.PI;
	const [x, y] = [to.x - centre.x, to.y - centre.y];
	return across
		? x * Math.cos(angle) - y * Math.sin(angle)
		: x * Math.sin(angle) + y * Math.cos(angle);
}

/** The direction from the inside to the top, also of a picture of no height. */
function direction(inside: Spot, top: Spot, at: Placement): Spot {
	const [x, y] = [top.x - inside.x, top.y - inside.y];
	const length = Math.hypot(x, y);
	if (length > 1) return { x: x / length, y: y / length };
	const angle = at.turns * 2 * Math.PI;
	return { x: -Math.sin(angle), y: -Math.cos(angle) };
}

/** Degrees counter-clockwise from one spot to another about a centre. */
function angleBetween(from: Spot, to: Spot, centre: Spot): number {
	const angle = (spot: Spot) => Math.atan2(centre.y - spot.y, spot.x - centre.x);
	const degrees = ((angle(to) - angle(from)) * 180) / Math.PI;
	return ((((degrees + 180) % 360) + 360) % 360) - 180;
}
