// Whether what plays is heard: one switch for the loop, the film and the cards of the book.
import { Remembered } from '$lib/ui/remembered.svelte';

class Hearing {
	readonly #on = new Remembered<boolean>('idle-shimmer-sound-on', true);

	get on(): boolean {
		return this.#on.value;
	}

	toggle(): boolean {
		this.#on.value = !this.on;
		return this.on;
	}
}

export const hearing = new Hearing();
