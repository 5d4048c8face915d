// The handles on the picture for the selected filter or mix, and what changes when they move.
import type { FilterKind, Parameter } from '$lib/api/client';
import { shapeOf } from '$lib/recipe/region';
import { clamped } from '$lib/ui/numbers';
import {
	mainValue,
	movesOf,
	withMainValue,
	withValue,
	type Envelope,
	type Mix,
	type Filter
} from '$lib/recipe/recipe';

/** Pixels of the shown picture, from its top left corner. */
export type Spot = { x: number; y: number };
export type Size = { width: number; height: number };
export type Changes = Record<string, Envelope>;
export type PictureHandle = Spot & {
	id: string;
	label: string;
	shape: 'point' | 'tip' | 'bar';
	/** A line is drawn from here. */
	from?: Spot;
	/** Marks along that line. */
	notches?: Spot[];
	/** Where it lies in every frame of the window. */
	path?: Spot[];
	/** An ellipse is drawn around the middle of `from`, or of the picture. */
	ring?: { x: number; y: number; rx: number; ry: number };
	/** A rectangle is drawn. */
	frame?: { x: number; y: number; w: number; h: number };
	/** What a pointer at a place sets; `snap` rounds angles to 15°. */
	moved: (to: Spot, snap: boolean) => Changes;
	/** What an arrow key sets: steps to the right and down. */
	keyed: (right: number, down: number) => Changes;
};

/** An animated point: where it lies in the shown frame and in all of them, 0…1, and how it is set. */
export type MovingPoint = {
	at: [number, number];
	path: [number, number][];
	with: (point: [number, number]) => Envelope;
};

const LEAST_ARM = 0.12;
const KEY_SHARE = 0.01;
const FRAME_A_NOTCH = 0.22;
const SNAP_DEG = 15;
const ROLL_ORIENTATIONS = ['rightward', 'downward'];

/** The handles of a filter on a picture of `size`. */
export function filterHandles(
	filter: Filter,
	kind: FilterKind,
	size: Size,
	moving?: MovingPoint
): PictureHandle[] {
	const withControl = (control: string) => kind.parameters.find((each) => each.control === control);
	const point = withControl('point');
	const centre = moving?.at ?? (point ? pairOf(filter, point.name) : ([0.5, 0.5] as const));
	const middle = { x: centre[0] * size.width, y: centre[1] * size.height };
	const found: PictureHandle[] = [];
	if (kind.direction_parameter && !isFollowing(filter, kind))
		found.push(...arrow(filter, kind, size));
	for (const each of kind.parameters)
		if (each.periodic && ROLL_ORIENTATIONS.includes(each.orientation ?? ''))
			found.push(roll(filter, kind, each, size));
	const [ellipse, radius] = [withControl('ellipse'), withControl('radius')];
	if (ellipse) found.push(ellipseHandle(filter, kind, ellipse.name, size));
	if (radius) found.push(radiusHandle(filter, kind, radius.name, middle, size));
	if (point) found.push(...centreHandle(filter, kind, point.name, size, moving));
	return found;
}

function pairOf(filter: Filter, name: string): readonly [number, number] {
	const value = mainValue(filter[name] as Envelope);
	return Array.isArray(value) ? value : [0.5, 0.5];
}

function numberOf(filter: Filter, name: string): number {
	const value = mainValue(filter[name] as Envelope);
	return Array.isArray(value) ? value[0] : value;
}

function set(filter: Filter, name: string, value: number | [number, number]): Changes {
	return { [name]: withMainValue(filter[name] as Envelope, value) };
}

function isFollowing(filter: Filter, kind: FilterKind): boolean {
	return kind.parameters.some(
		(each) => each.control !== 'point' && movesOf(filter[each.name] as Envelope) === 'follow'
	);
}

function round(value: number, decimals = 4): number {
	return Number(value.toFixed(decimals));
}

/** The point about which a filter works; one that follows another's has no handle of its own. */
function centreHandle(
	filter: Filter,
	kind: FilterKind,
	name: string,
	size: Size,
	moving?: MovingPoint
): PictureHandle[] {
	if (movesOf(filter[name] as Envelope) === 'follow') return [];
	const [x, y] = moving?.at ?? pairOf(filter, name);
	const setTo = (right: number, down: number) => {
		const point: [number, number] = [round(right), round(down)];
		return moving ? { [name]: moving.with(point) } : set(filter, name, point);
	};
	return [
		{
			id: 'centre',
			shape: 'point',
			label: `${kind.title} handle: centre, X ${Math.round(x * 100)} %, Y ${Math.round(y * 100)} %`,
			x: x * size.width,
			y: y * size.height,
			path: moving?.path.map(([right, down]) => ({ x: right * size.width, y: down * size.height })),
			moved: (to) => setTo(to.x / size.width, to.y / size.height),
			keyed: (right, down) => setTo(x + right * KEY_SHARE, y + down * KEY_SHARE)
		}
	];
}

/** The arrow of a direction; where the filter has a length, its tip is at half of it. */
function arrow(filter: Filter, kind: FilterKind, size: Size): PictureHandle[] {
	const angled = kind.parameters.find((each) => each.name === kind.direction_parameter);
	if (!angled || movesOf(filter[angled.name] as Envelope) !== 'hold') return [];
	const reached = kind.parameters.find((each) => each.unit === 'height' && each.rest === 0);
	const angle = numberOf(filter, angled.name);
	const half = reached ? Math.abs(numberOf(filter, reached.name)) / 2 : LEAST_ARM;
	const arm = Math.max(half, LEAST_ARM) * size.height;
	const radians = (angle * Math.PI) / 180;
	const [dx, dy] = [arm * Math.cos(radians), -arm * Math.sin(radians)];
	const middle = { x: size.width / 2, y: size.height / 2 };
	const turned = (by: number) => set(filter, angled.name, round(angle + by, 2));
	return [
		{
			id: 'angle',
			shape: 'tip',
			label: `${kind.title} handle: angle, ${angle} degrees`,
			x: middle.x + dx,
			y: middle.y + dy,
			from: { x: middle.x - dx, y: middle.y - dy },
			moved: (to, snap) => {
				const step = snap ? SNAP_DEG : 1;
				const far = Math.hypot(to.x - middle.x, to.y - middle.y);
				const now = (Math.atan2(middle.y - to.y, to.x - middle.x) * 180) / Math.PI;
				const changes = set(filter, angled.name, Math.round(now / step) * step);
				const longer = reached && far > LEAST_ARM * size.height;
				return longer
					? { ...changes, ...set(filter, reached.name, lengthOf(far, size, reached)) }
					: changes;
			},
			keyed: (right, down) => turned(-right - down)
		}
	];
}

function lengthOf(far: number, size: Size, of: { low?: number | null; high?: number | null }) {
	return round(clamped((2 * far) / size.height, of.low ?? 0, of.high ?? Infinity), 3);
}

/** An arrow with a notch at every whole frame by which the picture rolls. */
function roll(filter: Filter, kind: FilterKind, parameter: Parameter, size: Size): PictureHandle {
	const { name } = parameter;
	const rolled = (value: number): Changes => ({
		[name]: withValue(filter[name] as Envelope, value, parameter)
	});
	const frames = numberOf(filter, name);
	const across = parameter.orientation === 'rightward';
	const notch = FRAME_A_NOTCH * (across ? size.width : size.height);
	// The two arrows begin beside the middle, so that neither hides the other at rest.
	const start = {
		x: size.width / 2 + (across ? 0.04 * size.height : 0),
		y: size.height / 2 + (across ? 0 : 0.04 * size.height)
	};
	const room = (across ? size.width : size.height) * 0.44;
	const at = (count: number) => {
		const far = clamped(count * notch, -room, room);
		return across ? { x: start.x + far, y: start.y } : { x: start.x, y: start.y + far };
	};
	const whole = Math.min(Math.floor(room / notch), Math.abs(Math.trunc(frames)));
	return {
		id: `roll-${across ? 'x' : 'y'}`,
		shape: 'tip',
		label: `${kind.title} handle: ${parameter.label.toLowerCase()}, ${frames} frames`,
		...at(frames),
		from: start,
		notches: Array.from({ length: whole }, (_, n) => at((n + 1) * Math.sign(frames))),
		moved: (to, snap) => {
			const far = (across ? to.x - start.x : to.y - start.y) / notch;
			return rolled(snap ? round(far, 2) : Math.round(far));
		},
		keyed: (right, down) => rolled(round(frames + (across ? right : down), 2))
	};
}

function radiusHandle(
	filter: Filter,
	kind: FilterKind,
	name: string,
	middle: Spot,
	size: Size
): PictureHandle {
	const value = numberOf(filter, name);
	const far = value * size.height;
	return {
		id: 'radius',
		shape: 'tip',
		label: `${kind.title} handle: radius, ${round(value * 100, 1)} % of the height`,
		x: middle.x + far,
		y: middle.y,
		ring: { ...middle, rx: far, ry: far },
		moved: (to) =>
			set(filter, name, round(Math.hypot(to.x - middle.x, to.y - middle.y) / size.height, 3)),
		keyed: (right, down) =>
			set(filter, name, round(Math.max(0, value + (right - down) * KEY_SHARE), 3))
	};
}

/** The ellipse of a radius, in shape between the frame (`aspect` 0) and a circle (1). */
function ellipseHandle(filter: Filter, kind: FilterKind, name: string, size: Size): PictureHandle {
	const [value, aspect] = [numberOf(filter, name), numberOf(filter, 'aspect')];
	const half = Math.hypot(size.width, size.height) / 2;
	const side = (length: number) => (length / 2 / half) ** (1 - aspect) * 0.5 ** (aspect / 2);
	const [wide, high] = [side(size.width), side(size.height)];
	// The corner is at distance 1.
	const corner = Math.hypot(size.width / 2 / wide, size.height / 2 / high);
	const [rx, ry] = [wide * corner * value, high * corner * value];
	const middle = { x: size.width / 2, y: size.height / 2 };
	return {
		id: 'ellipse',
		shape: 'tip',
		label: `${kind.title} handle: radius, ${Math.round(value * 100)} %`,
		x: middle.x,
		y: middle.y - ry,
		ring: { ...middle, rx, ry },
		moved: (to) =>
			set(filter, name, round(clamped(Math.abs(middle.y - to.y) / (high * corner), 0, 1), 3)),
		keyed: (right, down) =>
			set(filter, name, round(clamped(value + (right - down) * KEY_SHARE, 0, 1), 3))
	};
}

/** The shape of a region: its centre, and its size by a corner. */
export function regionHandles(filter: Filter, title: string, size: Size): PictureHandle[] {
	const shape = shapeOf(filter);
	if (!shape) return [];
	const pair = (value: Envelope): [number, number] => {
		const main = mainValue(value);
		return Array.isArray(main) ? main : [0.5, 0.5];
	};
	const [[cx, cy], [wide, high]] = [pair(shape.centre), pair(shape.size)];
	const middle = { x: cx * size.width, y: cy * size.height };
	const half = { x: (wide * size.height) / 2, y: (high * size.height) / 2 };
	const changed = (part: object) => ({ region: { ...shape, ...part } }) as unknown as Changes;
	const centred = (x: number, y: number) => changed({ centre: [round(x), round(y)] });
	const sized = (right: number, down: number) =>
		changed({ size: [round(Math.max(0.01, right), 3), round(Math.max(0.01, down), 3)] });
	const box = shape.kind === 'box';
	// On an ellipse the handle lies on its edge.
	const share = box ? 1 : Math.SQRT1_2;
	return [
		{
			id: 'region-size',
			shape: 'tip',
			label: `${title} region handle: size, ${Math.round(wide * 100)} × ${Math.round(high * 100)} % of the height`,
			x: middle.x + half.x * share,
			y: middle.y + half.y * share,
			ring: box ? undefined : { ...middle, rx: half.x, ry: half.y },
			frame: box
				? { x: middle.x - half.x, y: middle.y - half.y, w: 2 * half.x, h: 2 * half.y }
				: undefined,
			moved: (to) =>
				sized(
					(2 * Math.abs(to.x - middle.x)) / share / size.height,
					(2 * Math.abs(to.y - middle.y)) / share / size.height
				),
			keyed: (right, down) => sized(wide + right * KEY_SHARE, high + down * KEY_SHARE)
		},
		{
			id: 'region-centre',
			shape: 'point',
			label: `${title} region handle: centre, X ${Math.round(cx * 100)} %, Y ${Math.round(cy * 100)} %`,
			x: middle.x,
			y: middle.y,
			moved: (to) => centred(to.x / size.width, to.y / size.height),
			keyed: (right, down) => centred(cx + right * KEY_SHARE, cy + down * KEY_SHARE)
		}
	];
}

/** The edge of a straight wipe at the shown frame, at `progress` 0…1; dragging shifts its span. */
export function wipeHandle(mix: Mix, progress: number, size: Size): PictureHandle | undefined {
	const matte = mix.matte as { type?: string; subtype?: string } | undefined;
	if (mix.kind !== 'wipe' || matte?.type !== 'barWipe' || !mix.span) return undefined;
	const across = matte.subtype === 'leftToRight';
	const length = across ? size.width : size.height;
	const share = mix.invert ? 1 - progress : progress;
	const far = share * length;
	const shifted = (to: number): Changes => {
		const wanted = mix.invert ? 1 - to / length : to / length;
		const [start, end] = mix.span ?? [-1, 1];
		const by = clamped((progress - wanted) * (end - start), -1 - start, 1 - end);
		return { span: [round(start + by), round(end + by)] as [number, number] };
	};
	return {
		id: 'wipe',
		shape: 'bar',
		label: `Wipe handle: ${Math.round(progress * 100)} % done at this frame`,
		...(across ? { x: far, y: size.height / 2 } : { x: size.width / 2, y: far }),
		from: across ? { x: far, y: 0 } : { x: 0, y: far },
		moved: (to) => shifted(across ? to.x : to.y),
		keyed: (right, down) => shifted(far + (right + down) * KEY_SHARE * length)
	};
}
