// The keyframes that are picked in an opened lane, and what is done to them together.
import { clipboard } from '$lib/bench/clipboard.svelte';
import type { Keyframes } from '$lib/recipe/recipe';
import {
	copiedKeyframes,
	movedTogether,
	stretchedFrom,
	withoutPicked,
	withPasted,
	type Limits
} from '$lib/recipe/keyframeGroup';
import type { Window } from '$lib/recipe/times';

const ID = /^keyframe-(\d+)$/;

/** The number of the keyframe that a handle is; undefined for any other handle. */
export function placeOf(handle: string): number | undefined {
	const found = ID.exec(handle)?.[1];
	return found === undefined ? undefined : Number(found) - 1;
}

export class PickedKeyframes {
	#places = $state.raw<number[]>([]);

	/** The numbers of the picked keyframes of a curve that has so many. */
	of(count: number): number[] {
		return this.#places.filter((place) => place < count);
	}

	has(handle: string): boolean {
		const place = placeOf(handle);
		return place !== undefined && this.#places.includes(place);
	}

	pick(places: number[]) {
		this.#places = [...new Set(places)].sort((one, other) => one - other);
	}

	toggle(place: number) {
		const others = this.#places.filter((each) => each !== place);
		this.pick(others.length < this.#places.length ? others : [...others, place]);
	}

	/** The picked ones where the used one is among several of them; that one alone otherwise. */
	with(place: number): number[] {
		return this.#places.includes(place) && this.#places.length > 1 ? this.#places : [place];
	}

	moved(
		keyframes: Keyframes,
		by: { frames: number; value: number },
		window: Window,
		limits: Limits
	) {
		return movedTogether(keyframes, this.of(keyframes.keyframes.length), by, window, limits);
	}

	stretched(keyframes: Keyframes, about: number, factor: number, window: Window) {
		const places = this.of(keyframes.keyframes.length);
		return stretchedFrom(keyframes, places, about, factor, window);
	}

	/** The curve without them; none is picked then. */
	deleted(keyframes: Keyframes): Keyframes {
		const made = withoutPicked(keyframes, this.of(keyframes.keyframes.length));
		this.pick([]);
		return made;
	}

	copy(keyframes: Keyframes, title: string, window: Window) {
		const copied = copiedKeyframes(keyframes, this.of(keyframes.keyframes.length), window);
		if (copied.length) clipboard.put({ kind: 'keyframes', title, keyframes: copied });
	}

	/** The curve with the copied keyframes from a frame on, which are picked then; null without any. */
	pasted(
		keyframes: Keyframes,
		offset: number,
		mirrored: boolean,
		window: Window,
		limits: Limits
	): Keyframes | null {
		const { copied } = clipboard;
		if (copied?.kind !== 'keyframes') return null;
		const made = withPasted(keyframes, copied.keyframes, offset + 0.5, mirrored, window, limits);
		const known = new Set(keyframes.keyframes.map(({ at }) => at));
		this.pick(made.keyframes.flatMap(({ at }, n) => (known.has(at) ? [] : [n])));
		return made;
	}
}
