// The sound of the loop: the two clips' own, in step with the pictures.
import { Remembered } from '$lib/ui/remembered.svelte';
import { toast } from '$lib/ui/toast.svelte';

export class LoopSound {
	readonly #on = new Remembered<boolean>('idle-shimmer-sound-on', true);
	#context: AudioContext | null = null;
	#source: AudioBufferSourceNode | null = null;
	#buffer: AudioBuffer | null = null;
	#of = '';
	/** Grows with every start and stop: what was asked for before is not played after it. */
	#turn = 0;

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
		const turn = this.#turn;
		this.#context ??= new AudioContext();
		const context = this.#context;
		try {
			await this.#fetch(context, `/api/cuts/${this.cutId}/sound?before=${before}&after=${after}`);
			await context.resume();
		} catch (error) {
			if (turn === this.#turn) toast.error(error);
			return;
		}
		if (turn !== this.#turn || !this.#buffer) return;
		const start = from();
		if (start < 0) return;
		const source = context.createBufferSource();
		source.buffer = this.#buffer;
		source.loop = true;
		source.playbackRate.value = speed;
		source.connect(context.destination);
		source.start(0, start % this.#buffer.duration);
		this.#source = source;
	}

	stop() {
		this.#turn += 1;
		this.#source?.stop();
		this.#source?.disconnect();
		this.#source = null;
	}

	/** The clips changed: their sound has to be read again. */
	forget() {
		this.#of = '';
	}

	close() {
		this.stop();
		void this.#context?.close();
		this.#context = null;
	}

	async #fetch(context: AudioContext, wanted: string) {
		if (this.#of === wanted) return;
		const answer = await fetch(wanted, { cache: 'no-store' });
		if (!answer.ok) throw new Error('The sound of this cut cannot be read.');
		this.#buffer = await context.decodeAudioData(await answer.arrayBuffer());
		this.#of = wanted;
	}
}
