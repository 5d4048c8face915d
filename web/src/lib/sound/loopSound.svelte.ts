// The sound of the loop: the two clips' own, in step with the pictures.
import { api, request } from '$lib/api/client';
import { toast } from '$lib/ui/toast.svelte';
import { hearing } from './hearing.svelte';
import { audio, begin, drop, end, sourceOf } from './speaker';

export class LoopSound {
	#source: AudioBufferSourceNode | null = null;
	#buffer: AudioBuffer | null = null;
	#of = '';
	/** Grows with every start and stop: what was asked for before is not played after it. */
	#generation = 0;

	constructor(readonly cutId: string) {}

	get on(): boolean {
		return hearing.on;
	}

	toggle(): boolean {
		if (!hearing.toggle()) this.stop();
		return this.on;
	}

	/** Play the loop of `before` and `after` frames around the cut, from `from` seconds into it. */
	async play(before: number, after: number, speed: number, from: () => number) {
		this.stop();
		if (!this.on) return;
		const generation = this.#generation;
		const context = audio();
		try {
			await this.#load(context, before, after);
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

	async #load(context: AudioContext, before: number, after: number) {
		const wanted = `${before}|${after}`;
		if (this.#of === wanted) return;
		const params = { path: { cut_id: this.cutId }, query: { before, after } };
		const asked = api.GET('/api/cuts/{cut_id}/sound', {
			params,
			parseAs: 'arrayBuffer',
			cache: 'no-store'
		});
		this.#buffer = await context.decodeAudioData(await request(asked));
		this.#of = wanted;
	}
}
