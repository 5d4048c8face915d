// The sound of an edit as it plays, in parts one after another. Its clock is the clock of the player.
import { api, request } from '$lib/api/client';
import { audio, begin, end, sourceOf } from './speaker';

const PART_S = 6;
/** A part is asked for so long before it is heard. */
const AHEAD_S = 8;
/** The first part begins so much later, so that it is not cut off. */
const START_S = 0.06;

export class FilmSound {
	#sources: AudioBufferSourceNode[] = [];
	#generation = 0;
	/** Ends the requests of what is stopped. */
	#requests = new AbortController();
	#startedAt = 0;
	#startedFrom = 0;

	constructor(
		readonly editId: string,
		readonly rate: number,
		readonly count: number,
		/** What stops the pictures where another player is heard. */
		readonly silence: () => void
	) {}

	/** Load the first part from a frame on and start it; false where something else was begun. */
	async start(frame: number): Promise<boolean> {
		this.stop();
		const generation = this.#generation;
		begin(this);
		const context = audio();
		const partFrames = Math.round(PART_S * this.rate);
		const first = await this.#part(context, frame, partFrames);
		await context.resume();
		if (generation !== this.#generation) return false;
		this.#startedAt = context.currentTime + START_S;
		this.#startedFrom = frame;
		this.#play(context, first, frame);
		void this.#follow(context, generation, frame + partFrames, partFrames);
		return true;
	}

	/** The frame that is heard now, with its fraction. */
	get frame(): number {
		const gone = audio().currentTime - this.#startedAt;
		return this.#startedFrom + Math.max(0, gone) * this.rate;
	}

	stop() {
		this.#generation += 1;
		this.#requests.abort();
		this.#requests = new AbortController();
		for (const source of this.#sources) source.disconnect();
		this.#sources = [];
		end(this);
	}

	async #follow(context: AudioContext, generation: number, from: number, partFrames: number) {
		for (let frame = from; frame < this.count && generation === this.#generation;) {
			if (frame - this.frame > AHEAD_S * this.rate) {
				await new Promise((done) => setTimeout(done, 500));
				continue;
			}
			try {
				const part = await this.#part(context, frame, partFrames);
				if (generation === this.#generation) this.#play(context, part, frame);
			} catch {
				// The pictures go on, silently: the next part may come.
			}
			frame += partFrames;
		}
	}

	#play(context: AudioContext, buffer: AudioBuffer, frame: number) {
		const source = sourceOf(buffer);
		const at = this.#startedAt + (frame - this.#startedFrom) / this.rate;
		const late = context.currentTime - at;
		if (late > 0) source.start(0, late);
		else source.start(at);
		this.#sources.push(source);
	}

	async #part(context: AudioContext, first: number, frames: number): Promise<AudioBuffer> {
		const asked = api.GET('/api/edits/{edit_id}/film/sound', {
			params: { path: { edit_id: this.editId }, query: { first, frames } },
			parseAs: 'arrayBuffer',
			signal: this.#requests.signal
		});
		return context.decodeAudioData(await request(asked));
	}
}
