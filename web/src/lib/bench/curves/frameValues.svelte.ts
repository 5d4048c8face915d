// Values on single frames: a keyframe exactly there. A curve that has none becomes keyframes of the same
// shape first, which the server answers.
import { api, request } from '$lib/api/client';
import type { TransitionDocument } from '$lib/bench/transition.svelte';
import { valueText } from '$lib/recipe/units';
import { movesOf, type Envelope, type Keyframes, type Value } from '$lib/recipe/recipe';
import { placedEnvelope, uOf } from '$lib/recipe/times';
import { fromCut } from '$lib/ui/numbers';
import { toast } from '$lib/ui/toast.svelte';
import type { CurveOwner } from './curveOwner';

const SAME_U = 1e-9;
/** How the incoming side repeats the outgoing one. */
export type Copying = 'mirrored' | 'repeated';
type Wanted = { owner: CurveOwner; offset: number; value: Value | null };

export class FrameValues {
	/** What is asked for next, by its curve and frame: of each only the newest value counts. */
	#next = new Map<string, Wanted>();
	#isAsking = false;
	#hasSaid = false;

	constructor(readonly transition: TransitionDocument) {}

	/** The value of the keyframe that lies on a frame alone; undefined without one. */
	keyframe(envelope: Envelope, offset: number): Value | undefined {
		const place = this.#placeOf(envelope, offset);
		return place < 0 ? undefined : (envelope as Keyframes).keyframes[place]?.value;
	}

	/** Show a value on a frame; null adds a keyframe there and changes no frame. */
	async set(owner: CurveOwner, offset: number, value: Value | null): Promise<void> {
		if (this.#setHere(owner, offset, value)) return;
		this.#next.set(`${owner.filter} ${owner.title} ${offset}`, { owner, offset, value });
		if (this.#isAsking) return;
		this.#isAsking = true;
		try {
			for (let [next] = this.#next; next; [next] = this.#next) {
				const [key, wanted] = next;
				this.#next.delete(key);
				if (!this.#setHere(wanted.owner, wanted.offset, wanted.value)) await this.#ask(wanted);
			}
		} finally {
			this.#isAsking = false;
		}
	}

	/** Copy the outgoing side of a curve to the incoming side. */
	async copySide(owner: CurveOwner, how: Copying): Promise<void> {
		const label = `${how === 'mirrored' ? 'Mirror' : 'Repeat'} ${owner.title}`;
		await this.#reshape(owner, label, async (curve) =>
			request(api.POST('/api/curves/side', { body: { curve, how } }))
		);
	}

	#setHere(owner: CurveOwner, offset: number, value: Value | null): boolean {
		const envelope = owner.read(this.transition.recipe);
		const place = envelope === undefined ? -1 : this.#placeOf(envelope, offset);
		if (place < 0) return false;
		if (value === null) return true;
		this.transition.change(this.#label(owner, offset, value), (recipe) => {
			const now = owner.read(recipe) as Keyframes;
			const keyframes = now.keyframes.map((each, n) => (n === place ? { ...each, value } : each));
			return owner.write(recipe, { ...now, keyframes });
		});
		return true;
	}

	#placeOf(envelope: Envelope, offset: number): number {
		if (movesOf(envelope) !== 'keyframes') return -1;
		const placed = placedEnvelope(envelope, this.transition) as Keyframes;
		const u = uOf(this.transition, offset + 0.5);
		const there = placed.keyframes.flatMap(({ at }, n) => (Math.abs(at - u) < SAME_U ? [n] : []));
		return there.length === 1 ? (there[0] ?? -1) : -1;
	}

	async #ask({ owner, offset, value }: Wanted) {
		const was = movesOf(owner.read(this.transition.recipe) ?? 0);
		const label =
			value === null
				? `Add keyframe of ${owner.title} at ${fromCut(offset)}`
				: this.#label(owner, offset, value);
		const made = await this.#reshape(owner, label, async (curve) =>
			request(api.POST('/api/curves/value', { body: { curve, offset, value } }))
		);
		if (made && !this.#hasSaid && (was === 'swell' || was === 'travel')) {
			this.#hasSaid = true;
			toast.info(
				`The ${was} is keyframes of the same shape now, so that frames can have values of their own.`
			);
		}
	}

	#reshape(
		owner: CurveOwner,
		label: string,
		ask: (curve: never) => Promise<{ envelope: unknown }>
	): Promise<unknown> {
		return this.transition.reshape(label, async (recipe) => {
			const { before, after } = this.transition;
			const curve = {
				filter: owner.filter,
				parameter: owner.name,
				envelope: owner.read(recipe),
				before,
				after,
				times: recipe.times
			};
			// The server validates the envelope; its type there is a union of every kind.
			const { envelope } = await ask(curve as never);
			return owner.write(recipe, envelope as Envelope);
		});
	}

	#label(owner: CurveOwner, offset: number, value: Value): string {
		return `${owner.title.charAt(0).toUpperCase()}${owner.title.slice(1)} at ${fromCut(offset)}: ${valueText(owner.parameter, value)}`;
	}
}
