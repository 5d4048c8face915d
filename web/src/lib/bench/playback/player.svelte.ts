// Plays the window and its run-up in a loop at the edit's rate, by the clock, with its sound.
import type { Changed } from '../cutTypes';
import type { View } from '../view.svelte';
import type { LoopSound } from '$lib/sound/loopSound.svelte';
import { faster, frameAt, type Direction } from '$lib/ui/shuttle';

export class Player {
	playing = $state(false);
	/** The speed of the loop that was chosen. */
	speed = $state(1);
	/** How many times as fast as that it plays now; backward below 0, and 0 at rest. */
	times = $state(0);
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
		else this.shuttle(1);
	}

	/** Play in a direction, or faster where it plays in that direction already. */
	shuttle(direction: Direction) {
		this.times = faster(this.times, direction);
		this.#start();
	}

	stop() {
		cancelAnimationFrame(this.#request);
		this.playing = false;
		this.times = 0;
		this.sound.stop();
	}

	setSpeed(speed: number) {
		this.speed = speed;
		if (this.playing) this.#start();
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
		if (this.times > 0)
			void this.sound.play(-view.firstShown, view.lastShown + 1, this.speed * this.times, () =>
				// Asked for only once the sound is there: by then the pictures have gone on.
				this.playing ? this.#place(performance.now()) / view.transition.rate : -1
			);
		else this.sound.stop();
		this.#tick(this.#startedAt);
	}

	get #length(): number {
		return this.view.lastShown - this.view.firstShown + 1;
	}

	/** Frames into the loop at a moment. */
	#place(now: number): number {
		const { view } = this;
		const length = this.#length;
		const gone = ((now - this.#startedAt) / 1000) * view.transition.rate * this.speed * this.times;
		return (((this.#startedFrom - view.firstShown + gone) % length) + length) % length;
	}

	readonly #tick = (now: number) => {
		if (!this.playing) return;
		const { view } = this;
		if (view.shown !== this.#shown) return this.stop();
		const place = this.#place(Math.max(now, this.#startedAt));
		view.show(view.firstShown + (frameAt(place, this.times) % this.#length));
		this.#shown = view.shown;
		this.#request = requestAnimationFrame(this.#tick);
	};
}
