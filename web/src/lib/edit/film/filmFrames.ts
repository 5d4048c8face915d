// The frames of an edit as it plays: asked for ahead of where it is, as many as the machine makes.
import { api, request } from '$lib/api/client';

/** Frames that are made at once: longer requests are late, shorter ones cost more of their time. */
const SECONDS_AT_ONCE = 0.6;
const AHEAD = 3;
const KEPT = 240;

/** The JPEG files in an answer, each after its length. */
export function filesIn(data: ArrayBuffer): Blob[] {
	const view = new DataView(data);
	const found: Blob[] = [];
	for (let at = 0; at + 4 <= data.byteLength;) {
		const length = view.getUint32(at);
		found.push(new Blob([data.slice(at + 4, at + 4 + length)], { type: 'image/jpeg' }));
		at += 4 + length;
	}
	return found;
}

/** Every how many frames one is made, so that making them keeps up with playing `times` as fast. */
export function stepFor(secondsAFrame: number, rate: number, times = 1): number {
	return Math.max(
		1,
		Math.ceil(Math.abs(times)),
		Math.ceil(secondsAFrame * rate * Math.abs(times) * 1.1)
	);
}

export class FilmFrames {
	readonly #pictures = new Map<number, ImageBitmap>();
	#generation = 0;
	/** Ends the requests for frames that are not wanted any more, and their work on the server. */
	#requests = new AbortController();
	#asking = false;
	/** The first frame that was not asked for yet; backward, the last one. */
	#next = 0;
	/** How many times as fast it plays; backward below 0. */
	#times = 1;
	/** Seconds that one frame took, smoothed. */
	#secondsAFrame = 0;

	constructor(
		readonly editId: string,
		readonly rate: number,
		readonly count: number
	) {}

	/** Begin to load from a frame on; what was loaded before stays as long as there is room. */
	begin(frame: number, times = 1) {
		this.#times = times;
		this.#generation += 1;
		this.#requests.abort();
		this.#requests = new AbortController();
		this.#asking = false;
		this.#next = frame;
	}

	/** Load what is played after a frame; resolves once something new is there. */
	async loadAfter(frame: number): Promise<boolean> {
		const wanted = this.#following(frame);
		if (this.#asking || !wanted) return false;
		const generation = this.#generation;
		const { first, count, step } = wanted;
		this.#asking = true;
		const began = performance.now();
		try {
			const files = filesIn(await this.#files(first, count, step));
			const pictures = await Promise.all(files.map((file) => createImageBitmap(file)));
			const took = (performance.now() - began) / 1000 / Math.max(1, pictures.length);
			this.#secondsAFrame = this.#secondsAFrame ? (this.#secondsAFrame + took) / 2 : took;
			pictures.forEach((picture, n) => this.#keep(first + n * step, picture));
			return true;
		} catch (error) {
			if (generation === this.#generation) throw error;
			return false;
		} finally {
			if (generation === this.#generation) this.#asking = false;
		}
	}

	/** The frames to ask for next, where it plays at `frame`; null where enough are there or none are left. */
	#following(frame: number): { first: number; count: number; step: number } | null {
		const speed = Math.abs(this.#times);
		const together = Math.max(2, Math.round(SECONDS_AT_ONCE * this.rate * speed));
		const step = stepFor(this.#secondsAFrame, this.rate, speed);
		const count = Math.max(1, Math.floor(together / step));
		const isBackward = this.#times < 0;
		// What could not be made in time is left out.
		if (isBackward ? this.#next > frame : this.#next < frame) this.#next = frame;
		if (Math.abs(this.#next - frame) >= AHEAD * together) return null;
		if (!isBackward) {
			if (this.#next >= this.count) return null;
			const first = this.#next;
			this.#next = first + count * step;
			return { first, count, step };
		}
		if (this.#next < 0) return null;
		const first = Math.max(0, this.#next - (count - 1) * step);
		const left = Math.floor((this.#next - first) / step) + 1;
		this.#next = first - 1;
		return { first, count: left, step };
	}

	async #files(first: number, count: number, step: number): Promise<ArrayBuffer> {
		const asked = api.GET('/api/edits/{edit_id}/film/frames', {
			params: { path: { edit_id: this.editId }, query: { first, count, step } },
			parseAs: 'arrayBuffer',
			signal: this.#requests.signal
		});
		return await request(asked);
	}

	/** The newest picture at a frame or before it, within half a second. */
	at(frame: number): { frame: number; picture: ImageBitmap } | null {
		for (let number = frame; number > frame - this.rate / 2; number -= 1) {
			const picture = this.#pictures.get(number);
			if (picture) return { frame: number, picture };
		}
		return null;
	}

	has(frame: number): boolean {
		return this.at(frame) !== null;
	}

	close() {
		this.begin(0);
		for (const picture of this.#pictures.values()) picture.close();
		this.#pictures.clear();
	}

	#keep(frame: number, picture: ImageBitmap) {
		this.#pictures.get(frame)?.close();
		this.#pictures.delete(frame);
		this.#pictures.set(frame, picture);
		for (const [oldest, old] of this.#pictures) {
			if (this.#pictures.size <= KEPT) break;
			old.close();
			this.#pictures.delete(oldest);
		}
	}
}
