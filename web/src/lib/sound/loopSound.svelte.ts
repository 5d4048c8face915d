// The sound of the loop: the two clips' own, in step with the pictures.
import { Remembered } from '$lib/ui/remembered.svelte';
import { toast } from '$lib/ui/toast.svelte';
import { audio, begin, drop, end, sourceOf } from './speaker';

export class LoopSound {
	readonly #on = new Remembered<boolean>('idle-shimmer-sound-on', true);
	#source: AudioBufferSourceNode | null = null;
	#buffer: AudioBuffer | null = null;
	#of = '';
	/** Grows with every start and stop: what was asked for before is not played after it. */
	#generation = 0;

	constructor(readonly cutId: string) {}

	get on(): boolean {
		return this.#on.value;
	}

	toggle(): boolean {
		this.#on.value = !this.on;
		if (!this.on) this.stop();
		return this.on;
	}

	/** Play the loop of `before` and `after` frames around the cut, from `from` seconds into it. */
	async play(before: number, after: number, speed: number, from: () => number) {
		this.stop();
		if (!this.on) return;
		const generation = this.#generation;
		const context = audio();
		try {
			await this.#fetch(context, `/api/cuts/${this.cutId}/sound?before=${before}&after=${after}`);
			await context.resume();
		} catch (error) {
			if (generation === this.#generation) toast.error(error);
			return;
		}
		if (generation !== this.#generation || !this.#buffer) return;
		const start = from();
		if (start < 0) return;
		begin(this);
		const source = sourceOf(this.#buffer);
		source.loop = true;
		source.playbackRate.value = speed;
		source.start(0, start % this.#buffer.duration);
		this.#source = source;
	}

	stop() {
		this.#generation += 1;
		drop(this.#source);
		this.#source = null;
		end(this);
	}

	/** Another player is heard: the pictures go on without. */
	silence() {
		this.stop();
	}

	/** The clips changed: their sound has to be read again. */
	forget() {
		this.#of = '';
	}

	close() {
		this.stop();
	}

	async #fetch(context: AudioContext, wanted: string) {
		if (this.#of === wanted) return;
		const answer = await fetch(wanted, { cache: 'no-store' });
		if (!answer.ok) throw new Error('The sound of this cut cannot be read.');
		this.#buffer = await context.decodeAudioData(await answer.arrayBuffer());
		this.#of = wanted;
	}
}
