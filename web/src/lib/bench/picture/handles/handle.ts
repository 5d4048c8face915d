// What a handle on the picture is, and what all of them ask of a filter.
import type { FilterKind } from '$lib/api/client';
import {
	mainValue,
	movesOf,
	withMainValue,
	type Envelope,
	type Filter,
	type Value
} from '$lib/recipe/recipe';
import { clamped } from '$lib/ui/numbers';

/** Pixels of the shown picture, from its top left corner. */
export type Spot = { x: number; y: number };
export type Size = { width: number; height: number };
export type Changes = Record<string, Envelope>;
export type PictureHandle = Spot & {
	id: string;
	label: string;
	shape: 'point' | 'tip' | 'bar' | 'edge' | 'middle';
	/** A line is drawn from here. */
	from?: Spot;
	/** Marks along that line. */
	notches?: Spot[];
	/** Where it lies in every frame of the window. */
	path?: Spot[];
	/** An ellipse is drawn around the middle of `from`, or of the picture. */
	ring?: { x: number; y: number; rx: number; ry: number };
	/** A shape is drawn through these places. */
	outline?: Spot[];
	/** A drag counts from where the handle was when it began. */
	relative?: boolean;
	/** What it sets is for the shown frame. */
	onFrame?: boolean;
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

/** How far an arrow key moves a handle, as a share of the picture. */
export const KEY_SHARE = 0.01;

/** The point that a parameter holds, 0…1 of the frame. */
export function pairOf(filter: Filter, name: string): readonly [number, number] {
	const value = mainValue(filter[name] as Envelope);
	return Array.isArray(value) ? value : [0.5, 0.5];
}

/** The number that a parameter holds. */
export function numberOf(filter: Filter, name: string): number {
	const value = mainValue(filter[name] as Envelope);
	return Array.isArray(value) ? value[0] : value;
}

/** The change that gives a parameter another main value. */
export function withMain(filter: Filter, name: string, value: number | [number, number]): Changes {
	return { [name]: withMainValue(filter[name] as Envelope, value) };
}

/** Whether a parameter other than a point follows a movement. */
export function isFollowing(filter: Filter, kind: FilterKind): boolean {
	return kind.parameters.some(
		(each) => each.control !== 'point' && movesOf(filter[each.name] as Envelope) === 'follow'
	);
}

/** A value to so many decimals. */
export function round(value: number, decimals = 4): number {
	return Number(value.toFixed(decimals));
}

export type Range = { low?: number | null; high?: number | null };

/** The handle with values that keep to the ranges of their parameters. */
export function withinRanges(
	handle: PictureHandle,
	rangeOf: (name: string) => Range | undefined
): PictureHandle {
	const kept = (changes: Changes): Changes =>
		Object.fromEntries(
			Object.entries(changes).map(([name, envelope]) => [name, within(envelope, rangeOf(name))])
		);
	return {
		...handle,
		moved: (to, snap) => kept(handle.moved(to, snap)),
		keyed: (right, down) => kept(handle.keyed(right, down))
	};
}

/** The envelope with values inside a range. */
export function within(envelope: Envelope, range: Range | undefined): Envelope {
	if (!range) return envelope;
	const number = (value: number) => clamped(value, range.low ?? -Infinity, range.high ?? Infinity);
	const fit = (value: Value): Value =>
		Array.isArray(value) ? [number(value[0]), number(value[1])] : number(value);
	if (typeof envelope === 'number' || Array.isArray(envelope)) return fit(envelope);
	if (typeof envelope !== 'object') return envelope;
	if (envelope.kind === 'swell') return { ...envelope, peak: fit(envelope.peak) };
	if (envelope.kind === 'travel') return { ...envelope, amount: fit(envelope.amount) };
	if (envelope.kind !== 'keyframes') return envelope;
	const keyframes = envelope.keyframes.map((each) => ({ ...each, value: fit(each.value) }));
	return { ...envelope, keyframes };
}
