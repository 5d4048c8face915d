// Times of a recipe as they are stated: u (−1 the window's start, 0 the cut, 1 its end), or frames from the
// cut, which stay so many frames under the duration. Lanes work on u, and give back what was stated.
import { clamped } from '$lib/ui/numbers';
import { movesOf, type Envelope, type Keyframe, type Recipe, type Swell } from './recipe';

export type Time = number | { frames: number };
export type Window = { before: number; after: number };

type Timed = Record<string, unknown>;

/** The fields that are times: of a swell and a travel; of a subject layer and a slip. */
const ENVELOPE_TIMES = ['start', 'full_from', 'full_to', 'end'];
export const SPAN_TIMES = ['from', 'to'];

/** Envelope time of a time in frames from the cut: −1 at the window's start, 0 at the cut, 1 at its end. */
export function uOf({ before, after }: Window, t: number): number {
	return t < 0 ? t / before : t / after;
}

/** Frames from the cut of an envelope time. */
export function tOf({ before, after }: Window, u: number): number {
	return u < 0 ? u * before : u * after;
}

/** Where each clip is seen, in frames from the cut: a mix shows both of them in its span. */
export function seenOf(
	side: 'outgoing' | 'incoming',
	{ kind, span }: { kind: string; span?: [Time, Time] },
	window: Window
): { from: number; to: number } {
	const [first, last] = kind === 'cut' ? [0, 0] : (span ?? [-1, 1]);
	const [start, end] = [first, last].map((each) => tOf(window, uAt(each, window)));
	return side === 'outgoing'
		? { from: -window.before, to: end as number }
		: { from: start as number, to: window.after };
}

export function isInFrames(time: unknown): time is { frames: number } {
	return typeof time === 'object' && time !== null && 'frames' in time;
}

/** A time as u in a window; frames end at `farthest` times its ends. */
export function uAt(time: Time, window: Window, farthest = 1): number {
	return isInFrames(time) ? clamped(uOf(window, time.frames), -farthest, farthest) : time;
}

/** A time at `u`, in frames where it is wanted so: to half frames. */
export function timeAt(u: number, window: Window, inFrames: boolean): Time {
	return inFrames ? { frames: Math.round(2 * tOf(window, u)) / 2 || 0 } : u;
}

/** The same with its times as u. */
export function placedTimes<T extends object>(
	timed: T,
	fields: string[],
	window: Window,
	farthest = 1
): T {
	const made = { ...timed } as Timed;
	for (const field of fields)
		if (isInFrames(made[field])) made[field] = uAt(made[field], window, farthest);
	return made as T;
}

/** What was changed with times as u, its times in frames again where `stated` has them so. */
export function statedTimes<T extends object>(
	stated: object,
	changed: T,
	fields: string[],
	window: Window
): T {
	const [was, made] = [stated as Timed, { ...changed } as Timed];
	for (const field of fields)
		if (isInFrames(was[field]) && typeof made[field] === 'number')
			made[field] = timeAt(made[field], window, true);
	return made as T;
}

/** All times in frames, or all as u. */
export function countedTimes<T extends object>(
	timed: T,
	fields: string[],
	window: Window,
	inFrames: boolean
): T {
	const made = { ...timed } as Timed;
	for (const field of fields)
		if (made[field] !== undefined)
			made[field] = timeAt(uAt(made[field] as Time, window, 20), window, inFrames);
	return made as T;
}

/** An envelope with its times as u. */
export function placedEnvelope(envelope: Envelope, window: Window): Envelope {
	if (typeof envelope !== 'object' || Array.isArray(envelope)) return envelope;
	if (envelope.kind === 'swell' || envelope.kind === 'travel')
		return placedTimes(envelope, ENVELOPE_TIMES, window);
	if (envelope.kind !== 'keyframes') return envelope;
	const keyframes = envelope.keyframes.map((each) => placedTimes(each, ['at'], window));
	return { ...envelope, keyframes };
}

/** An envelope that was changed with times as u, with those in frames again that were stated so. */
export function statedEnvelope(stated: Envelope, changed: Envelope, window: Window): Envelope {
	if (!isInFramesAnywhere(stated)) return changed;
	if (typeof changed !== 'object' || Array.isArray(changed)) return changed;
	if (typeof stated !== 'object' || Array.isArray(stated)) return changed;
	if (changed.kind === 'swell' || changed.kind === 'travel')
		return statedTimes(stated, changed, ENVELOPE_TIMES, window);
	if (changed.kind !== 'keyframes' || stated.kind !== 'keyframes') return changed;
	const was = stated.keyframes;
	const keyframes = changed.keyframes.map((each, n) => {
		const same = was.find(({ at }) => Math.abs(uAt(at, window) - each.at) < 1e-9);
		const before = same ?? (was.length === changed.keyframes.length ? was[n] : undefined);
		return before ? statedTimes(before, each, ['at'], window) : each;
	});
	return { ...changed, keyframes };
}

/** An envelope with all its times in frames, or all as u. */
export function countedEnvelope(envelope: Envelope, window: Window, inFrames: boolean): Envelope {
	if (typeof envelope !== 'object' || Array.isArray(envelope)) return envelope;
	if (envelope.kind === 'swell' || envelope.kind === 'travel')
		return countedTimes(envelope, ENVELOPE_TIMES, window, inFrames);
	if (envelope.kind !== 'keyframes') return envelope;
	const counted = (each: Keyframe) => countedTimes(each, ['at'], window, inFrames);
	return { ...envelope, keyframes: envelope.keyframes.map(counted) };
}

/** A new swell shows its peak on both frames beside the cut, also in recipes whose times are exact. */
export function onFrames(next: Envelope, was: Envelope | undefined, recipe: Recipe): Envelope {
	if (recipe.times === 'frames' || movesOf(next) !== 'swell') return next;
	const swell = next as Swell;
	const isNew = was === undefined || movesOf(was) !== 'swell';
	if (!isNew || swell.full_from !== 0 || swell.full_to !== 0) return next;
	const beside = { full_from: { frames: -0.5 }, full_to: { frames: 0.5 } };
	return { ...swell, ...(beside as unknown as Pick<Swell, 'full_from' | 'full_to'>) };
}

/** Whether any time of an envelope is in frames. */
export function isInFramesAnywhere(envelope: Envelope): boolean {
	if (typeof envelope !== 'object' || Array.isArray(envelope)) return false;
	if (envelope.kind === 'keyframes') return envelope.keyframes.some(({ at }) => isInFrames(at));
	return Object.values(envelope).some(isInFrames);
}
