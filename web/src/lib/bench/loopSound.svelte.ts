// The sound of the loop: the two clips' own, in step with the pictures.
import { browser } from '$app/environment';
import { toast } from '$lib/ui/toast.svelte';

const STORED_AS = 'idle-shimmer-sound';

export class LoopSound {
	on = $state(browser && localStorage.getItem(STORED_AS) !== 'off');
	#context: AudioContext | null = null;
	#source: AudioBufferSourceNode | null = null;
	#buffer: AudioBuffer | null = null;
	#of = '';

	constructor(readonly cutId: string) {}

	toggle(): boolean {
		this.on = !this.on;
		localStorage.setItem(STORED_AS, this.on ? 'on' : 'off');
		if (!this.on) this.stop();
		return this.on;
	}

	/** Play the loop of `before` and `after` frames around the cut, from `from` seconds into it. */
	async play(before: number, after: number, speed: number, from: () => number) {
		this.stop();
		if (!this.on) return;
		const wanted = `/api/cuts/${this.cutId}/sound?before=${before}&after=${after}`;
		this.#context ??= new AudioContext();
		const context = this.#context;
		try {
			if (this.#of !== wanted) {
				this.#of = wanted;
				const answer = await fetch(wanted);
				if (!answer.ok) throw new Error('The sound of this cut cannot be read.');
				this.#buffer = await context.decodeAudioData(await answer.arrayBuffer());
			}
			await context.resume();
		} catch (error) {
			this.#of = '';
			toast.error(error);
			return;
		}
		if (!this.#buffer || this.#of !== wanted || !this.on) return;
		const source = context.createBufferSource();
		source.buffer = this.#buffer;
		source.loop = true;
		source.playbackRate.value = speed;
		source.connect(context.destination);
		const start = from();
		if (start < 0) return;
		source.start(0, start % this.#buffer.duration);
		this.#source = source;
	}

	stop() {
		this.#source?.stop();
		this.#source = null;
	}
}
