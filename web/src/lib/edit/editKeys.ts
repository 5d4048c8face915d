// The keys of the edit screen: its history, and the player of the film.
import { tinykeys } from 'tinykeys';
import { characterKeys } from '$lib/ui/characterKeys';
import { isTyping } from '$lib/ui/focus';
import type { Direction } from '$lib/ui/shuttle';
import type { FilmPlayer } from './film/filmPlayer.svelte';

export type EditKeys = {
	undo: () => unknown;
	redo: () => unknown;
	/** Play or pause; opens the player where it is closed. */
	toggle: () => unknown;
	/** The player where it is open. */
	film: () => FilmPlayer | null;
	/** Open the player. */
	open: () => Promise<FilmPlayer | null>;
	/** Show the picture on the full screen, or no longer. */
	fill: () => unknown;
};

/** Listen to keys until the function that is returned is called. */
export function listenToKeys(keys: EditKeys): () => void {
	const unless = (work: (event: KeyboardEvent) => unknown) => (event: KeyboardEvent) => {
		if (isTyping(event)) return;
		event.preventDefault();
		work(event);
	};
	const letter = (work: () => unknown) => unless(() => characterKeys.value && work());
	/** Where the player is closed, arrows scroll the page as they do elsewhere. */
	const inFilm = (work: (film: FilmPlayer) => unknown) => (event: KeyboardEvent) => {
		const film = keys.film();
		if (film) unless(() => work(film))(event);
	};
	const play = async (direction: Direction) =>
		(keys.film() ?? (await keys.open()))?.shuttle(direction);
	const step = (by: number) =>
		inFilm((film) => {
			film.pause();
			void film.seek(film.frame + by);
		});
	return tinykeys(window, {
		'$mod+z': unless(keys.undo),
		'$mod+Shift+z': unless(keys.redo),
		Space: unless(keys.toggle),
		j: letter(() => void play(-1)),
		k: letter(() => keys.film()?.stopHere()),
		l: letter(() => void play(1)),
		f: letter(keys.fill),
		ArrowLeft: step(-1),
		ArrowRight: step(1),
		'Shift+ArrowLeft': step(-5),
		'Shift+ArrowRight': step(5),
		Home: inFilm((film) => film.seek(0)),
		End: inFilm((film) => film.seek(film.count - 1))
	});
}
