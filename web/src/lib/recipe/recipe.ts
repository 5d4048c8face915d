// The recipe as the bench edits it, and pure operations on its envelopes.
import { applyPatch, type Operation } from 'rfc6902';
import type { Catalogue, Parameter, FilterKind } from '$lib/api/client';
import usual from '$lib/api/generated/usual.json';
import type { Time } from './times';

export type PatchStep = { op: string; path: string; value: unknown };
export type Easing = string | { steepness: number };
/** How a value runs between two stated ones; without it, as its parameter does. */
export type Interpolation = 'linear' | 'ratio';
export type Value = number | [number, number];
export type Swell = {
	kind: 'swell';
	peak: Value;
	start: number;
	full_from: number;
	full_to: number;
	end: number;
	rise: Easing;
	fall: Easing;
	interpolation?: Interpolation;
};
export type Travel = {
	kind: 'travel';
	from?: Value;
	amount: Value;
	start: number;
	end: number;
	easing: Easing;
	interpolation?: Interpolation;
};
export type Keyframe = { at: number; value: Value; easing: Easing };
export type Keyframes = {
	kind: 'keyframes';
	keyframes: Keyframe[];
	interpolation?: Interpolation;
};
export type Follow = { kind: 'follow'; filter: string; shutter: number };
export type Envelope = Value | string | boolean | Swell | Travel | Keyframes | Follow;
export type Moves = 'hold' | 'swell' | 'travel' | 'keyframes' | 'follow';

export type Side = 'outgoing' | 'across' | 'incoming' | 'subject';
export type Filter = {
	id: string;
	kind: string;
	side: Side;
	enabled: boolean;
	name?: string | null;
	[parameter: string]: Envelope | null | undefined;
};
export type Mix = {
	kind: string;
	span?: [Time, Time];
	easing?: Easing;
	[parameter: string]: unknown;
};
/** The subject of one clip over the mix, for a part of the window. */
export type SubjectLayer = { of: 'outgoing' | 'incoming'; from: number; to: number };
/** Incoming's subject comes before its background. */
export const USUAL_LAYER = usual.subject_layer as SubjectLayer;
export type Recipe = {
	format: number;
	name: string;
	mix: Mix;
	shutter: number;
	light: string;
	/** Whether peaks and keyframes are seen on frames. */
	times: 'exact' | 'frames';
	filters: Filter[];
	subject_layer?: SubjectLayer | null;
	/** Findings that are meant to be so, by their check, with the reason. */
	accepted?: Record<string, string>;
	[other: string]: unknown;
};

export const ANIMATIONS: Record<Moves, string> = {
	hold: 'Constant',
	swell: 'Swell',
	travel: 'Travel',
	keyframes: 'Keyframes',
	follow: 'Follow movement'
};

export function movesOf(envelope: Envelope): Moves {
	return typeof envelope === 'object' && !Array.isArray(envelope) ? envelope.kind : 'hold';
}

/** The number that stands for a whole envelope: its peak, its amount, or its constant value. */
export function mainValue(envelope: Envelope): Value {
	if (typeof envelope === 'string' || typeof envelope === 'boolean') return 0;
	if (typeof envelope === 'number' || Array.isArray(envelope)) return envelope;
	if (envelope.kind === 'follow') return envelope.shutter;
	if (envelope.kind === 'swell') return envelope.peak;
	if (envelope.kind === 'travel') return envelope.amount;
	return envelope.keyframes.reduce(
		(far, keyframe) => (magnitude(keyframe.value) > magnitude(far) ? keyframe.value : far),
		0 as Value
	);
}

function magnitude(value: Value): number {
	return Array.isArray(value) ? Math.hypot(...value) : Math.abs(value);
}

/** The same envelope with another main value; keyframes are scaled together. */
export function withMainValue(envelope: Envelope, value: Value): Envelope {
	if (typeof envelope !== 'object' || Array.isArray(envelope)) return value;
	if (envelope.kind === 'follow')
		return typeof value === 'number' ? { ...envelope, shutter: Math.max(0, value) } : envelope;
	if (envelope.kind === 'swell') return { ...envelope, peak: value };
	if (envelope.kind === 'travel') return { ...envelope, amount: value };
	const old = mainValue(envelope);
	if (typeof old !== 'number' || typeof value !== 'number' || old === 0) return envelope;
	const factor = value / old;
	return {
		...envelope,
		keyframes: envelope.keyframes.map((keyframe) => ({
			...keyframe,
			value: (keyframe.value as number) * factor
		}))
	};
}

/** The envelope with a value typed or dragged: one at rest becomes the usual animation of its parameter. */
export function withValue(envelope: Envelope, value: Value, parameter: Parameter): Envelope {
	const rests = movesOf(envelope) === 'hold' && envelope === parameter.rest;
	if (!rests || typeof value !== 'number' || value === parameter.rest)
		return withMainValue(envelope, value);
	if (parameter.moves === 'swell') return swellTo(value);
	return parameter.moves === 'travel' ? travelBy(value - (parameter.rest ?? 0)) : value;
}

/** What the main value is called, for labels beside other words. */
export function mainName(moves: Moves): string {
	return {
		hold: 'constant',
		swell: 'peak',
		travel: 'amount',
		keyframes: 'largest keyframe',
		follow: 'shutter'
	}[moves];
}

export function swellTo(peak: Value): Swell {
	return { ...(usual.swell as Omit<Swell, 'peak'>), peak };
}

export function travelBy(amount: Value): Travel {
	return { ...(usual.travel as Omit<Travel, 'amount'>), amount };
}

/** The envelope turned into another kind, its main value kept. */
export function withMoves(
	envelope: Envelope,
	moves: Moves,
	parameter: Parameter,
	followed = ''
): Envelope {
	if (movesOf(envelope) === moves) return envelope;
	const rest = parameter.rest ?? 0;
	if (moves === 'follow')
		return { kind: 'follow', filter: followed, shutter: usual.follow_shutter };
	if (parameter.control === 'point' && movesOf(envelope) === 'follow')
		return withMoves(parameter.default as Envelope, moves, parameter);
	const value = movesOf(envelope) === 'follow' ? (parameter.usual ?? rest) : mainValue(envelope);
	if (moves === 'hold') return value;
	if (moves === 'swell') return swellTo(value);
	if (moves === 'travel') return travelBy(value);
	if (parameter.control === 'point') {
		// It stands still until a keyframe is moved.
		const point = Array.isArray(value) ? value : (parameter.default as Value);
		return { kind: 'keyframes', keyframes: [{ at: 0, value: point, easing: 'linear' }] };
	}
	const resting: Value = Array.isArray(value) ? value : rest;
	return {
		kind: 'keyframes',
		keyframes: [
			{ at: -1, value: resting, easing: 'ease-in' },
			{ at: 0, value, easing: 'ease-out' },
			{ at: 1, value: resting, easing: 'linear' }
		]
	};
}

/** A new filter of `kind` with its usual animation and an id that is not in `taken`. */
export function newFilter(kind: FilterKind, taken: string[]): Filter {
	const filter: Filter = {
		id: freeId(kind.kind, taken),
		kind: kind.kind,
		side: 'across',
		enabled: true
	};
	for (const parameter of kind.parameters) filter[parameter.name] = usualEnvelope(parameter);
	return filter;
}

function usualEnvelope(parameter: Parameter): Envelope {
	if (parameter.choices) return parameter.choices[0] ?? (parameter.default as string);
	if (parameter.control === 'seed') return freshSeed();
	if (parameter.usual == null) return parameter.default as Envelope;
	if (parameter.moves === 'swell') return swellTo(parameter.usual);
	if (parameter.moves === 'travel') return travelBy(parameter.usual);
	return parameter.usual;
}

export function freeId(stem: string, taken: string[]): string {
	for (let number = 1; ; number += 1) {
		const id = number === 1 ? stem : `${stem}-${number}`;
		if (!taken.includes(id)) return id;
	}
}

/** Whether a parameter is a number with a curve of its own. */
export function hasCurve(parameter: Parameter): boolean {
	return !['choice', 'switch', 'colour', 'seed', 'matte'].includes(parameter.control);
}

/** A random seed. */
export function freshSeed(): number {
	return Math.floor(Math.random() * 10_000);
}

const FILTER_PATH = /^\/filters\/(\d+)(?=\/|$)/;

/**
 * A patch of a recipe whose filters were `ids`, for the recipe as it is now: each filter where it is now.
 * Null where one of them has gone.
 */
export function readdressed(patch: PatchStep[], ids: string[], now: Recipe): PatchStep[] | null {
	const made: PatchStep[] = [];
	for (const step of patch) {
		const place = FILTER_PATH.exec(step.path)?.[1];
		const at =
			place === undefined ? -1 : now.filters.findIndex(({ id }) => id === ids[Number(place)]);
		if (place !== undefined && at < 0) return null;
		made.push({ ...step, path: step.path.replace(FILTER_PATH, `/filters/${at}`) });
	}
	return made;
}

/** The recipe with a patch (RFC 6902) applied; null where it does not fit. */
export function patched(recipe: Recipe, patch: PatchStep[]): Recipe | null {
	const made = structuredClone(recipe);
	const problems = applyPatch(made, patch as Operation[]);
	return problems.some(Boolean) ? null : made;
}

/** The parameter that a closed lane shows: the animated one, else the first with a rest value. */
export function leadingParameter(filter: Filter, kind: FilterKind): Parameter | undefined {
	const numbers = kind.parameters.filter((each) => hasCurve(each) && each.control !== 'point');
	const moving = numbers.find((each) => movesOf(filter[each.name] as Envelope) !== 'hold');
	const working = numbers.find(
		(each) => each.rest != null && mainValue(filter[each.name] as Envelope) !== each.rest
	);
	return moving ?? working ?? numbers.find((each) => each.rest != null) ?? numbers[0];
}

export function kindOf(catalogue: Catalogue, filter: Filter): FilterKind | undefined {
	return catalogue.filters.find((each) => each.kind === filter.kind);
}

/** What moves the picture, so that a blur can follow it: a filter, or the mix. */
export type Mover = { id: string; name: string };
const MIX = 'mix';

/** What the parameters of `filter` can follow. */
export function moversFor(catalogue: Catalogue, recipe: Recipe, filter: Filter): Mover[] {
	const filters = recipe.filters
		.filter((each) => each.id !== filter.id && kindOf(catalogue, each)?.moving)
		.map((each) => ({
			id: each.id,
			name: each.name ?? kindOf(catalogue, each)?.title ?? each.kind
		}));
	const mix = catalogue.mixes.find((each) => each.kind === recipe.mix.kind);
	return mix?.moving ? [...filters, { id: MIX, name: mix.title }] : filters;
}

/** The filters whose point a point of `filter` can follow. */
export function pointsFor(catalogue: Catalogue, recipe: Recipe, filter: Filter): Mover[] {
	return recipe.filters
		.filter((each) => each.id !== filter.id)
		.map((each) => ({ each, kind: kindOf(catalogue, each) }))
		.filter(({ kind }) => kind?.parameters.some(({ control }) => control === 'point'))
		.map(({ each, kind }) => ({ id: each.id, name: each.name ?? kind?.title ?? each.kind }));
}

/** The filter's name, or its title, in lower case, for labels: "directional blur". */
export function nameOf(catalogue: Catalogue, filter: Filter): string {
	return (filter.name ?? kindOf(catalogue, filter)?.title ?? filter.kind).toLowerCase();
}
