// Plays a whole edit with its transitions: the sound is the clock, the pictures follow it.
import { toast } from '$lib/ui/toast.svelte';
import { FilmFrames } from './filmFrames';
import { FilmSound } from '$lib/sound/filmSound';
import { hearing } from '$lib/sound/hearing.svelte';
import { faster, frameAt, type Direction } from '$lib/ui/shuttle';

export class FilmPlayer {
	playing = $state(false);
	/** How many times as fast as the edit it plays; backward below 0, and 0 at rest. */
	times = $state(0);
	/** The frame of the edit that is shown. */
	frame = $state(0);
	/** The picture that is shown; null before the first. */
	picture = $state.raw<ImageBitmap | null>(null);
	/** Pictures in the last second, of those that the edit has. */
	shown = $state(0);
	readonly #frames: FilmFrames;
	readonly #sound: FilmSound;
	#request = 0;
	/** Grows with every start and stop: what was begun before it does not go on. */
	#generation = 0;
	/** Where no sound is heard (backward and fast as well), the clock of the page. */
	#silentSince: number | null = null;
	#silentFrom = 0;
	#drawn: { at: number; frame: number }[] = [];

	constructor(
		editId: string,
		readonly rate: number,
		readonly count: number
	) {
		this.#frames = new FilmFrames(editId, rate, count);
		this.#sound = new FilmSound(editId, rate, count, () => this.pause());
	}

	toggle() {
		if (this.playing) this.stopHere();
		else void this.play();
	}

	/** Pause, and show the frame where it stands, though playing may not have reached a picture of it yet. */
	stopHere() {
		this.pause();
		void this.seek(this.frame);
	}

	/** Play in a direction, or faster where it plays in that direction already. */
	shuttle(direction: Direction) {
		const times = faster(this.times, direction);
		this.pause();
		void this.play(times);
	}

	async play(times = 1) {
		const generation = (this.#generation += 1);
		const from = this.#startOf(times);
		this.playing = true;
		this.times = times;
		this.#frames.begin(from, times);
		try {
			await this.#frames.loadAfter(from);
			if (generation !== this.#generation) return;
			this.#silentSince = null;
			if (!hearing.on || times !== 1) this.#playSilently(from);
			else if (!(await this.#sound.start(from))) return;
		} catch (error) {
			if (generation !== this.#generation) return;
			toast.error(error);
			this.#playSilently(from);
		}
		if (generation === this.#generation) this.#tick();
	}

	/** Where playing starts: at an end of the edit it starts at the other one. */
	#startOf(times: number): number {
		const last = this.count - 1;
		if (times < 0) return this.frame <= 0 ? last : this.frame;
		return this.frame >= last ? 0 : this.frame;
	}

	#playSilently(from: number) {
		this.#silentSince = performance.now();
		this.#silentFrom = from;
	}

	pause() {
		this.#generation += 1;
		cancelAnimationFrame(this.#request);
		this.playing = false;
		this.times = 0;
		this.#sound.stop();
	}

	/** Switch the sound of everything that plays; this goes on from where it is. */
	toggleSound() {
		hearing.toggle();
		if (this.playing) void this.seek(this.frame);
	}

	/** Show a frame; while it plays, play on from there. */
	async seek(frame: number) {
		const wanted = Math.min(Math.max(0, Math.round(frame)), Math.max(0, this.count - 1));
		const { times } = this;
		this.pause();
		this.frame = wanted;
		if (times) {
			await this.play(times);
			return;
		}
		this.#frames.begin(wanted);
		try {
			if (!this.#frames.has(wanted)) await this.#frames.loadAfter(wanted);
		} catch (error) {
			toast.error(error);
		}
		if (this.frame === wanted) this.#show(wanted);
	}

	close() {
		this.pause();
		this.#frames.close();
		this.picture = null;
	}

	readonly #tick = () => {
		if (!this.playing) return;
		const place = frameAt(this.#now(), this.times);
		if (place >= this.count || place < 0) {
			this.frame = place < 0 ? 0 : this.count - 1;
			this.pause();
			return;
		}
		this.frame = place;
		this.#show(place);
		this.#frames.loadAfter(place).catch((error: unknown) => {
			this.pause();
			toast.error(error);
		});
		this.#request = requestAnimationFrame(this.#tick);
	};

	#now(): number {
		if (this.#silentSince === null) return this.#sound.frame;
		const gone = (performance.now() - this.#silentSince) / 1000;
		return this.#silentFrom + gone * this.rate * this.times;
	}

	#show(place: number) {
		const found = this.#frames.at(place);
		if (!found) return;
		this.picture = found.picture;
		const now = performance.now();
		if (this.#drawn.at(-1)?.frame !== found.frame)
			this.#drawn.push({ at: now, frame: found.frame });
		while ((this.#drawn[0]?.at ?? now) < now - 1000) this.#drawn.shift();
		this.shown = this.#drawn.length;
	}
}
