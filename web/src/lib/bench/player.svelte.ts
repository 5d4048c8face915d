// Plays the window and its run-up in a loop at the edit's rate, by the clock.
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
	}

	setSpeed(speed: number) {
		this.bench.speed = speed;
		if (this.bench.playing) this.#start();
	}

	#start() {
		cancelAnimationFrame(this.#request);
		this.bench.playing = true;
		this.#startedAt = performance.now();
		this.#startedFrom = this.bench.shown;
		this.#tick(this.#startedAt);
	}

	#tick = (now: number) => {
		const { bench } = this;
		if (!bench.playing) return;
		const length = bench.lastShown - bench.firstShown + 1;
		const gone = Math.floor(((now - this.#startedAt) / 1000) * bench.rate * bench.speed);
		const place = (((this.#startedFrom - bench.firstShown + gone) % length) + length) % length;
		bench.show(bench.firstShown + place);
		this.#request = requestAnimationFrame(this.#tick);
	};
}
