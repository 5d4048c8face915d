// The accent of the transition as sound: for the waveform in its lane, and to be heard alone.
import { api, Refusal, problemText } from '$lib/api/client';
import type { Recipe } from '$lib/recipe/recipe';
import { audio, begin, drop, end, sourceOf } from './speaker';

const SAMPLES_PER_SECOND = 48_000;
const AFTER_MS = 150;

/** The largest sample of each column, 0…1, from `first` seconds before or after the cut. */
export type Waveform = { firstS: number; lengthS: number; peaks: number[] };

export class AccentSound {
	waveform = $state.raw<Waveform | null>(null);
	/** Why it cannot be heard; empty where it can. */
	problem = $state('');
	playing = $state(false);
	#wav: ArrayBuffer | null = null;
	#asked = '';
	#timer = 0;
	#source: AudioBufferSourceNode | null = null;

	/** Make the sound of a state; while a value is dragged only the newest counts. */
	follow(recipe: Recipe, before: number, after: number, rate: string, columns: number) {
		const { mix, filters, accent } = recipe;
		const asked = JSON.stringify([mix, filters, accent, before, after, rate]);
		if (asked === this.#asked) return;
		this.#asked = asked;
		clearTimeout(this.#timer);
		this.#timer = window.setTimeout(
			() => void this.#make(asked, { recipe: recipe as never, before, after, rate }, columns),
			AFTER_MS
		);
	}

	/** Make the sound of a state at once. */
	async load(recipe: Recipe, before: number, after: number, rate: string) {
		const asked = (this.#asked = JSON.stringify([recipe, before, after, rate]));
		await this.#make(asked, { recipe: recipe as never, before, after, rate }, 1);
	}

	/** Forget what was made or is on its way. */
	drop() {
		this.#asked = '';
		this.#wav = null;
	}

	async #make(
		asked: string,
		body: { recipe: never; before: number; after: number; rate: string },
		columns: number
	) {
		try {
			const answer = await api.POST('/api/accents', { body, parseAs: 'arrayBuffer' });
			if (asked !== this.#asked) return;
			if (!answer.response.ok) throw new Refusal(problemText(answer.error), answer.response.status);
			const first = Number(answer.response.headers.get('Idle-Shimmer-First-Sample') ?? 0);
			this.#wav = answer.data as ArrayBuffer;
			this.waveform = waveformOf(this.#wav, first, columns);
			this.problem = '';
		} catch (error) {
			if (asked !== this.#asked) return;
			this.waveform = null;
			this.problem = error instanceof Error ? error.message : String(error);
		}
	}

	/** Play it alone, from its start. */
	async play() {
		if (!this.#wav?.byteLength || this.playing) return;
		this.playing = true;
		begin(this);
		const buffer = await audio().decodeAudioData(this.#wav.slice(0));
		if (!this.playing) return;
		await audio().resume();
		const source = sourceOf(buffer);
		source.onended = () => source === this.#source && this.stop();
		source.start();
		this.#source = source;
	}

	stop() {
		this.playing = false;
		drop(this.#source);
		this.#source = null;
		end(this);
	}

	/** Another player is heard. */
	silence() {
		this.stop();
	}

	close() {
		clearTimeout(this.#timer);
		this.stop();
	}
}

/** The waveform of a WAV file of 16-bit stereo whose header has the usual 44 bytes. */
export function waveformOf(wav: ArrayBuffer, first: number, columns: number): Waveform {
	const samples = new Int16Array(wav.slice(44));
	const count = Math.floor(samples.length / 2);
	const peaks = Array.from({ length: Math.max(1, columns) }, (_, n) => {
		let most = 0;
		const [from, to] = [n, n + 1].map((each) => Math.floor((each * count) / columns)) as [
			number,
			number
		];
		for (let at = 2 * from; at < 2 * to; at += 1) most = Math.max(most, Math.abs(samples[at] ?? 0));
		return most / 32767;
	});
	return { firstS: first / SAMPLES_PER_SECOND, lengthS: count / SAMPLES_PER_SECOND, peaks };
}
