// Plays the window and its run-up in a loop at the edit's rate, by the clock, with its sound.
import type { Changed } from '../cutTypes';
import type { View } from '../view.svelte';
import type { LoopSound } from '$lib/sound/loopSound.svelte';

export const SPEEDS = [1, 0.5, 0.25];

export class Player {
	playing = $state(false);
	speed = $state(1);
	#request = 0;
	#startedAt = 0;
	#startedFrom = 0;
	/** The frame that was shown last by playing: where another one is shown, somebody has gone to it. */
	#shown = 0;
	/** The loop that is played: another one starts the sound anew. */
	#loop = '';

	constructor(
		readonly view: View,
		readonly sound: LoopSound
	) {}

	toggle() {
		if (this.playing) this.stop();
		else this.#start();
	}

	stop() {
		cancelAnimationFrame(this.#request);
		this.playing = false;
		this.sound.stop();
	}

	setSpeed(speed: number) {
		this.speed = speed;
		if (this.playing) this.#start();
	}

	nextSpeed() {
		this.setSpeed(SPEEDS[(SPEEDS.indexOf(this.speed) + 1) % SPEEDS.length] ?? 1);
	}

	toggleSound() {
		if (this.sound.toggle() && this.playing) this.#start();
	}

	/** The transition changed: where the loop or its clips did, the sound follows. */
	follow(what: Changed) {
		if (what === 'clips') this.sound.forget();
		if (this.playing && (what === 'clips' || this.#loop !== this.#ends())) this.#start();
	}

	/** What is heard changed, and was saved: the loop goes on with it. */
	changeSound() {
		this.sound.forget();
		if (this.playing && this.sound.on) this.#start();
	}

	/** Leave the cut. */
	close() {
		this.stop();
		this.sound.close();
	}

	#ends(): string {
		return [this.view.firstShown, this.view.lastShown].join();
	}

	#start() {
		const { view } = this;
		cancelAnimationFrame(this.#request);
		this.playing = true;
		this.#shown = view.shown;
		this.#loop = this.#ends();
		this.#startedAt = performance.now();
		this.#startedFrom = view.shown;
		void this.sound.play(-view.firstShown, view.lastShown + 1, this.speed, () =>
			// Asked for only once the sound is there: by then the pictures have gone on.
			this.playing ? this.#place(performance.now()) / view.transition.rate : -1
		);
		this.#tick(this.#startedAt);
	}

	/** Frames into the loop at a moment. */
	#place(now: number): number {
		const { view } = this;
		const length = view.lastShown - view.firstShown + 1;
		const gone = ((now - this.#startedAt) / 1000) * view.transition.rate * this.speed;
		return (((this.#startedFrom - view.firstShown + gone) % length) + length) % length;
	}

	readonly #tick = (now: number) => {
		if (!this.playing) return;
		const { view } = this;
		if (view.shown !== this.#shown) return this.stop();
		view.show(view.firstShown + Math.floor(this.#place(Math.max(now, this.#startedAt))));
		this.#shown = view.shown;
		this.#request = requestAnimationFrame(this.#tick);
	};
}
