// Plays the window and its run-up in a loop at the edit's rate, by the clock, with its sound.
import type { Bench } from './bench.svelte';

export class Player {
	#request = 0;
	#startedAt = 0;
	#startedFrom = 0;

	constructor(readonly bench: Bench) {}

	toggle() {
		if (this.bench.playing) this.stop();
		else this.#start();
	}

	stop() {
		cancelAnimationFrame(this.#request);
		this.bench.playing = false;
		this.bench.sound.stop();
	}

	setSpeed(speed: number) {
		this.bench.speed = speed;
		if (this.bench.playing) this.#start();
	}

	toggleSound() {
		if (this.bench.sound.toggle() && this.bench.playing) this.#start();
	}

	#start() {
		const { bench } = this;
		cancelAnimationFrame(this.#request);
		bench.playing = true;
		this.#startedAt = performance.now();
		this.#startedFrom = bench.shown;
		void bench.sound.play(-bench.firstShown, bench.lastShown + 1, bench.speed, () =>
			// Asked for only once the sound is there: by then the pictures have gone on.
			bench.playing ? this.#place(performance.now()) / bench.rate : -1
		);
		this.#tick(this.#startedAt);
	}

	/** Frames into the loop at a moment. */
	#place(now: number): number {
		const { bench } = this;
		const length = bench.lastShown - bench.firstShown + 1;
		const gone = ((now - this.#startedAt) / 1000) * bench.rate * bench.speed;
		return (((this.#startedFrom - bench.firstShown + gone) % length) + length) % length;
	}

	#tick = (now: number) => {
		const { bench } = this;
		if (!bench.playing) return;
		bench.show(bench.firstShown + Math.floor(this.#place(Math.max(now, this.#startedAt))));
		this.#request = requestAnimationFrame(this.#tick);
	};
}
