// What can be grabbed on the picture for the selected pass or mix, and what changes when it moves.
import type { PassKind } from '$lib/api/client';
import { clamped } from '$lib/ui/numbers';
import {
	mainValue,
	movesOf,
	withMainValue,
	withValue,
	type Envelope,
	type Mix,
	type Pass
} from './recipe';

/** Pixels of the shown picture, from its top left corner. */
export type Spot = { x: number; y: number };
export type Size = { width: number; height: number };
export type Changes = Record<string, Envelope>;
export type PictureHandle = Spot & {
	id: string;
	label: string;
	look: 'point' | 'tip' | 'bar';
	/** A line is drawn from here. */
	from?: Spot;
	/** Marks along that line. */
	notches?: Spot[];
	/** An ellipse is drawn around the middle of `from`, or of the picture. */
	ring?: { x: number; y: number; rx: number; ry: number };
	/** What a pointer at a place sets; `snap` rounds angles to 15°. */
	moved: (to: Spot, snap: boolean) => Changes;
	/** What an arrow key sets: steps to the right and down. */
	keyed: (right: number, down: number) => Changes;
};

const LEAST_ARM = 0.12;
const KEY_SHARE = 0.01;
const FRAME_A_NOTCH = 0.22;
const SNAP_DEG = 15;

/** The handles of a pass on a picture of `size`. */
export function passHandles(pass: Pass, kind: PassKind, size: Size): PictureHandle[] {
	const named = (control: string) => kind.parameters.find((each) => each.control === control);
	const has = (name: string) => kind.parameters.some((each) => each.name === name);
	const point = named('point');
	const centre = point ? pairOf(pass, point.name) : ([0.5, 0.5] as const);
	const middle = { x: centre[0] * size.width, y: centre[1] * size.height };
	const found: PictureHandle[] = [];
	if (named('angle') && !isFollowing(pass, kind)) found.push(...arrow(pass, kind, size));
	if (kind.kind === 'roll') found.push(roll(pass, kind, 'x', size), roll(pass, kind, 'y', size));
	if (kind.kind === 'vignette') found.push(vignette(pass, size));
	if (has('radius')) found.push(radius(pass, kind, middle, size));
	if (point) found.push(centreHandle(pass, kind, point.name, size));
	return found;
}

function pairOf(pass: Pass, name: string): readonly [number, number] {
	const value = mainValue(pass[name] as Envelope);
	return Array.isArray(value) ? value : [0.5, 0.5];
}

function numberOf(pass: Pass, name: string): number {
	const value = mainValue(pass[name] as Envelope);
	return Array.isArray(value) ? value[0] : value;
}

function set(pass: Pass, name: string, value: number | [number, number]): Changes {
	return { [name]: withMainValue(pass[name] as Envelope, value) };
}

function isFollowing(pass: Pass, kind: PassKind): boolean {
	return kind.parameters.some((each) => movesOf(pass[each.name] as Envelope) === 'follow');
}

function round(value: number, decimals = 4): number {
	return Number(value.toFixed(decimals));
}

function centreHandle(pass: Pass, kind: PassKind, name: string, size: Size): PictureHandle {
	const [x, y] = pairOf(pass, name);
	return {
		id: 'centre',
		look: 'point',
		label: `${kind.title}: centre, ${Math.round(x * 100)} % across, ${Math.round(y * 100)} % down`,
		x: x * size.width,
		y: y * size.height,
		moved: (to) => set(pass, name, [round(to.x / size.width), round(to.y / size.height)]),
		keyed: (right, down) =>
			set(pass, name, [round(x + right * KEY_SHARE), round(y + down * KEY_SHARE)])
	};
}

/** The arrow of a direction; where the pass has a length, its tip lies at half of it. */
function arrow(pass: Pass, kind: PassKind, size: Size): PictureHandle[] {
	const angled = kind.parameters.find((each) => each.control === 'angle');
	if (!angled || movesOf(pass[angled.name] as Envelope) !== 'hold') return [];
	const reached = kind.parameters.find((each) => ['length', 'distance'].includes(each.name));
	const angle = numberOf(pass, angled.name);
	const half = reached ? Math.abs(numberOf(pass, reached.name)) / 2 : LEAST_ARM;
	const arm = Math.max(half, LEAST_ARM) * size.height;
	const radians = (angle * Math.PI) / 180;
	const [dx, dy] = [arm * Math.cos(radians), -arm * Math.sin(radians)];
	const middle = { x: size.width / 2, y: size.height / 2 };
	const turned = (by: number) => set(pass, angled.name, round(angle + by, 2));
	return [
		{
			id: 'angle',
			look: 'tip',
			label: `${kind.title}: angle, ${angle} degrees`,
			x: middle.x + dx,
			y: middle.y + dy,
			from: { x: middle.x - dx, y: middle.y - dy },
			moved: (to, snap) => {
				const step = snap ? SNAP_DEG : 1;
				const far = Math.hypot(to.x - middle.x, to.y - middle.y);
				const now = (Math.atan2(middle.y - to.y, to.x - middle.x) * 180) / Math.PI;
				const changes = set(pass, angled.name, Math.round(now / step) * step);
				const longer = reached && far > LEAST_ARM * size.height;
				return longer
					? { ...changes, ...set(pass, reached.name, lengthOf(far, size, reached)) }
					: changes;
			},
			keyed: (right, down) => turned(-right - down)
		}
	];
}

function lengthOf(far: number, size: Size, of: { low?: number | null; high?: number | null }) {
	return round(clamped((2 * far) / size.height, of.low ?? 0, of.high ?? Infinity), 3);
}

/** An arrow with a notch at every whole frame that the picture rolls. */
function roll(pass: Pass, kind: PassKind, name: 'x' | 'y', size: Size): PictureHandle {
	const parameter = kind.parameters.find((each) => each.name === name);
	const rolled = (value: number): Changes => {
		const was = pass[name] as Envelope;
		return { [name]: parameter ? withValue(was, value, parameter) : withMainValue(was, value) };
	};
	const frames = numberOf(pass, name);
	const across = name === 'x';
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
		id: `roll-${name}`,
		look: 'tip',
		label: `Roll: ${frames} frames ${across ? 'sideways' : 'up and down'}`,
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

function radius(pass: Pass, kind: PassKind, middle: Spot, size: Size): PictureHandle {
	const value = numberOf(pass, 'radius');
	const far = value * size.height;
	return {
		id: 'radius',
		look: 'tip',
		label: `${kind.title}: radius, ${round(value * 100, 1)} % of the height`,
		x: middle.x + far,
		y: middle.y,
		ring: { ...middle, rx: far, ry: far },
		moved: (to) =>
			set(pass, 'radius', round(Math.hypot(to.x - middle.x, to.y - middle.y) / size.height, 3)),
		keyed: (right, down) =>
			set(pass, 'radius', round(Math.max(0, value + (right - down) * KEY_SHARE), 3))
	};
}

/** Where a vignette is half done: an ellipse between the frame's shape and a circle. */
function vignette(pass: Pass, size: Size): PictureHandle {
	const [midpoint, roundness] = [numberOf(pass, 'midpoint'), numberOf(pass, 'roundness')];
	const half = Math.hypot(size.width, size.height) / 2;
	const side = (length: number) => (length / 2 / half) ** (1 - roundness) * 0.5 ** (roundness / 2);
	const [wide, high] = [side(size.width), side(size.height)];
	// The corner lies at distance 1.
	const corner = Math.hypot(size.width / 2 / wide, size.height / 2 / high);
	const [rx, ry] = [wide * corner * midpoint, high * corner * midpoint];
	const middle = { x: size.width / 2, y: size.height / 2 };
	return {
		id: 'midpoint',
		look: 'tip',
		label: `Vignette: midpoint, ${Math.round(midpoint * 100)} %`,
		x: middle.x,
		y: middle.y - ry,
		ring: { ...middle, rx, ry },
		moved: (to) =>
			set(pass, 'midpoint', round(clamped(Math.abs(middle.y - to.y) / (high * corner), 0, 1), 3)),
		keyed: (right, down) =>
			set(pass, 'midpoint', round(clamped(midpoint + (right - down) * KEY_SHARE, 0, 1), 3))
	};
}

/** The line of a straight wipe at the shown frame, `progress` on its way; dragging shifts its span. */
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
		look: 'bar',
		label: `Wipe: ${Math.round(progress * 100)} % done at this frame`,
		...(across ? { x: far, y: size.height / 2 } : { x: size.width / 2, y: far }),
		from: across ? { x: far, y: 0 } : { x: 0, y: far },
		moved: (to) => shifted(across ? to.x : to.y),
		keyed: (right, down) => shifted(far + (right + down) * KEY_SHARE * length)
	};
}
