// A card's accent, heard while the pointer rests on it or it has the focus, where sound is on.
import { AccentSound } from './accentSound.svelte';
import type { BookRecipe } from '$lib/api/client';
import type { Recipe } from '$lib/recipe/recipe';
import { hearing } from './hearing.svelte';

const AFTER_MS = 250;

export class CardSound {
	#sound = new AccentSound();
	#timer = 0;

	/** Play a recipe's accent after a short rest. */
	start(entry: BookRecipe, rate: string) {
		this.stop();
		if (!hearing.on || !(entry.recipe as Recipe).accent) return;
		this.#timer = window.setTimeout(async () => {
			await this.#sound.load(entry.recipe as Recipe, entry.before, entry.after, rate);
			await this.#sound.play();
		}, AFTER_MS);
	}

	stop() {
		clearTimeout(this.#timer);
		this.#sound.drop();
		this.#sound.stop();
	}

	close() {
		clearTimeout(this.#timer);
		this.#sound.close();
	}
}
